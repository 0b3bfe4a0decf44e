/** The way from a game's folder and back. */
export const STATIONS = [
  { path: 'open', name: 'Open' },
  { path: 'find', name: 'Find' },
  { path: 'take-out', name: 'Take out' },
  { path: 'change', name: 'Change' },
  { path: 'put-back', name: 'Put back' },
] as const;
export type StationPath = (typeof STATIONS)[number]['path'];
