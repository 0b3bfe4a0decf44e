/** XLIFF, as translators exchange texts: 1.2 is written, 1.2 and 2.0 are read (OASIS). */
import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';
import { FormatError } from '../../faults';
import type { WordEdit, WordRow } from './words';

type Node = Readonly<Record<string, unknown>>;

const KEEPS = { preserveOrder: true, ignoreAttributes: false, attributeNamePrefix: '' } as const;

const element = (name: string, children: readonly Node[], attributes: Readonly<Record<string, string>> = {}): Node => ({
  [name]: children,
  ':@': attributes,
});
const textNode = (text: string): Node => ({ '#text': text });

/** @param from the language of the sources, @param to that of the texts */
export function writeXliff(rows: readonly WordRow[], from: string, to: string): string {
  const units = rows.map(({ key, source, text }) =>
    element(
      'trans-unit',
      [element('source', [textNode(source ?? '')]), ...(text === null ? [] : [element('target', [textNode(text)])])],
      { id: key, resname: key, 'xml:space': 'preserve' },
    ),
  );
  const file = element('file', [element('body', units)], {
    original: 'words',
    datatype: 'plaintext',
    'source-language': from === '' ? 'und' : from,
    'target-language': to,
  });
  const root = element('xliff', [file], { version: '1.2', xmlns: 'urn:oasis:names:tc:xliff:document:1.2' });
  const built = new XMLBuilder({ ...KEEPS, suppressEmptyNode: false }).build([root]) as string;
  // A bare carriage return would be read as a line feed.
  return `<?xml version="1.0" encoding="UTF-8"?>\n${built.replaceAll('\r', '&#13;')}\n`;
}

/** @throws FormatError `wrong-kind` with the line of what is no XML, and for a unit without a key */
export function readXliff(text: string, file: string): WordEdit[] {
  const checked = XMLValidator.validate(text);
  if (checked !== true)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      line: checked.err.line,
      expected: 'XLIFF',
      found: checked.err.msg,
    });
  const tree = new XMLParser({
    ...KEEPS,
    trimValues: false,
    parseTagValue: false,
    processEntities: true,
    htmlEntities: true,
  }).parse(text) as Node[];
  const edits: WordEdit[] = [];
  const visit = (nodes: readonly Node[]) => {
    for (const node of nodes) {
      const name = nameOf(node);
      if (name === 'trans-unit' || name === 'unit') edits.push(...unitOf(node, name, file));
      else if (name !== '#text') visit(childrenOf(node));
    }
  };
  visit(tree);
  if (edits.length === 0 && !tree.some((node) => nameOf(node) === 'xliff'))
    throw new FormatError({ code: 'wrong-kind', file, what: 'it is no XLIFF', expected: 'a root called xliff' });
  return edits;
}

const nameOf = (node: Node): string => Object.keys(node).find((key) => key !== ':@') ?? '';
const childrenOf = (node: Node): readonly Node[] => {
  const inner = node[nameOf(node)];
  return Array.isArray(inner) ? (inner as Node[]) : [];
};

function unitOf(node: Node, name: string, file: string): WordEdit[] {
  const attributes = (node[':@'] ?? {}) as Record<string, string>;
  const key = attributes['resname'] ?? attributes['name'] ?? attributes['id'];
  if (key === undefined)
    throw new FormatError({ code: 'wrong-kind', file, what: `a ${name} has neither a name nor an id` });
  const targets = name === 'trans-unit' ? [node] : childrenOf(node).filter((child) => nameOf(child) === 'segment');
  const texts = targets.flatMap((parent) => childrenOf(parent).filter((child) => nameOf(child) === 'target'));
  return texts.length === 0 ? [] : [{ key, text: texts.map(textOf).join('') }];
}

/** Marks inside a text are left out, and what they are around is kept. */
const textOf = (node: Node): string =>
  nameOf(node) === '#text' ? String(node['#text']) : childrenOf(node).map(textOf).join('');
