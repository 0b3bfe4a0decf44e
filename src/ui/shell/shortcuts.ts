/** Every shortcut of the application, in one table: the page of keys and the guide are made from it. */
export const SHORTCUTS = [
  { keys: 'Ctrl K', what: 'Find entries, archives and actions', where: 'anywhere' },
  { keys: '?', what: 'Show these shortcuts', where: 'anywhere' },
  { keys: 'Alt 1 … Alt 5', what: 'Go to Open, Find, Take out, Change, Put back', where: 'anywhere' },
  { keys: '/', what: 'Go to the search line', where: 'Find' },
  { keys: '↑ ↓ ← →', what: 'Move through the entries', where: 'Find' },
  { keys: 'Home, End, Page up, Page down', what: 'First and last entry, a page up and down', where: 'Find' },
  { keys: 'Shift with these, Ctrl A', what: 'Choose several entries, or all of them', where: 'Find' },
  { keys: 'L', what: 'Label the entry; Enter keeps it and goes back to the list', where: 'Find' },
  { keys: 'Space', what: 'Play or pause the sound or the film', where: 'Find' },
  { keys: '↑ ↓ ← →, + −, 0', what: 'Turn a mesh, come nearer, see all of it', where: 'a mesh' },
  { keys: 'Enter, Escape', what: 'Type over a value, leave it', where: 'Records' },
  { keys: 'T', what: 'Put the entry into the tray, or take it out of it', where: 'Find' },
  { keys: 'R', what: 'Replace the entry with a file', where: 'Find' },
  { keys: '↑ ↓', what: 'Move through the changes and the files that wait', where: 'Change' },
] as const;

/** True while the person is typing, when single letters are text. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  return target !== null && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
}
