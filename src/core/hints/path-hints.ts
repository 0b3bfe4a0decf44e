/** Hints from texts that look like paths. */
import { hex, number, MOST_BETWEEN_NAMES, type Hint } from './hint';

interface NameText {
  readonly at: number;
  readonly text: string;
}

/** Texts that look like paths: letters, a dot and an extension. */
export function pathTexts(front: Uint8Array): readonly NameText[] {
  const text = Buffer.from(front).toString('latin1');
  const found: NameText[] = [];
  for (const match of text.matchAll(/[A-Za-z0-9_][A-Za-z0-9_/\\. -]{3,200}\.[A-Za-z0-9]{2,5}(?![A-Za-z0-9])/g)) {
    found.push({ at: match.index, text: match[0] });
    if (found.length >= 10_000) break;
  }
  return nearest(found);
}

/** Names stand together, in a table or a pool; what looks like one far away in packed bytes is chance. */
function nearest(names: readonly NameText[]): readonly NameText[] {
  const groups: NameText[][] = [];
  let end = -Infinity;
  for (const name of names) {
    if (name.at - end > MOST_BETWEEN_NAMES) groups.push([]);
    groups.at(-1)!.push(name);
    end = name.at + name.text.length;
  }
  const largest = groups.sort((a, b) => b.length - a.length)[0] ?? [];
  return largest.length > 2 ? largest : names;
}

export function namesHint(names: readonly NameText[]): Hint {
  const [first] = names;
  const last = names.at(-1)!;
  return {
    what: `${number(names.length)} names such as “${first!.text.slice(0, 40)}” from ${hex(first!.at)} on`,
    at: first!.at,
    length: last.at + last.text.length - first!.at,
    lines: [
      { part: 'row', text: '- { field: name, as: text(u16, utf-8), is: entry.path }' },
      { part: 'entries', text: 'path: row.name' },
    ],
  };
}
