import type { HintsAnswer } from '../../server/shapes';

type Lines = HintsAnswer['hints'][number]['lines'];

/** A recipe that says nothing yet, for a file of this name. */
export function emptyRecipe(fileName: string): string {
  const id = fileName.toLowerCase().replace(/[^a-z0-9]+/g, '-').replace(/^-+|-+$/g, '') || 'new-format';
  return `recipe: ${/^\d/.test(id) ? `f-${id}` : id}
title: ${fileName.replace(/["\\]/g, '')}
revision: 1
numbers: little
shapes:
  header:
    - { field: first, as: u8 }
  row:
    - { field: body, as: data(0) }
regions:
  - { region: head, at: 0, holds: header }
  - { region: index, at: 0, holds: 'row[0]' }
presents: archive
entries:
  each: row in index
`;
}

const MARKS: Readonly<Record<Lines[number]['part'], { readonly find: RegExp; readonly indent: string }>> = {
  match: { find: /^numbers:.*$/m, indent: '' },
  header: { find: /^ {2}header:\s*$/m, indent: '    ' },
  row: { find: /^ {2}row:\s*$/m, indent: '    ' },
  regions: { find: /^regions:\s*$/m, indent: '  ' },
  entries: { find: /^entries:\s*$/m, indent: '  ' },
};

/** Puts the lines of a hint where they belong: a match behind the numbers, a field at the head of its shape. */
export function insertLines(text: string, lines: Lines): string {
  return lines.reduce((before, { part, text: line }) => {
    const { find, indent } = MARKS[part];
    const found = find.exec(before);
    if (found === null) return `${before.trimEnd()}\n# ${part}: ${line}\n`;
    const end = found.index + found[0].length;
    return `${before.slice(0, end)}\n${indent}${line}${before.slice(end)}`;
  }, text);
}
