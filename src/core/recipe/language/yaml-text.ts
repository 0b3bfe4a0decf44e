/** YAML 1.2 with bounds: how deep it nests, how many keys a map has; and the line of every part kept for messages. */
import { isAlias, isMap, isScalar, isSeq, LineCounter, parseDocument, type Document, type YAMLMap } from 'yaml';
import { FormatError } from '../../faults';

/** Path of keys and indices into the YAML. */
export type TextPath = readonly (string | number)[];

export interface YamlText {
  readonly plain: unknown;
  /** The 1-based line where a part is; the nearest parent's when the part itself is not written out. */
  lineOf(path: TextPath): number;
}

const MAX_DEPTH = 64;
const MAX_KEYS = 20_000;

/** @throws FormatError `recipe-invalid` with the line */
export function readYaml(text: string): YamlText {
  const lines = new LineCounter();
  // The library compares each key with all before it: that is done below, in one pass.
  const document = parseDocument(text, { lineCounter: lines, uniqueKeys: false });
  const [broken] = document.errors;
  if (broken !== undefined) {
    if (/call stack/u.test(broken.message)) throw tooDeep(1);
    throw new FormatError({
      code: 'recipe-invalid',
      line: broken.linePos?.[0].line ?? 1,
      what: `this is not YAML (${broken.message.split('\n')[0]?.replace(/ at line.*/, '') ?? broken.code})`,
      hint: 'Check the indentation, and that every bracket is closed.',
    });
  }
  checkBounds(document, lines);
  return { plain: document.toJS({ maxAliasCount: 0 }), lineOf: lineFinder(document, lines) };
}

function tooDeep(line: number): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    line,
    what: 'lists and maps lie too deep inside one another',
    limit: `${MAX_DEPTH} levels`,
  });
}

function checkBounds(document: Document.Parsed, lines: LineCounter): void {
  const waiting: { node: unknown; depth: number }[] = [{ node: document.contents, depth: 0 }];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const { node, depth } = next;
    if (isAlias(node))
      throw new FormatError({
        code: 'recipe-invalid',
        ...placed(node, lines),
        what: 'a recipe has no aliases (*)',
        hint: 'A few lines of them can unfold to more than memory holds. Write the part out, or name it as a shape.',
      });
    if (!isMap(node) && !isSeq(node)) continue;
    if (depth >= MAX_DEPTH) throw tooDeep(lineOfNode(node, lines) ?? 1);
    if (isMap(node)) checkKeys(node.items, lines);
    for (const item of node.items)
      waiting.push({ node: isMap(node) ? (item as { value: unknown }).value : item, depth: depth + 1 });
  }
}

function placed(node: unknown, lines: LineCounter): { line?: number } {
  const line = lineOfNode(node, lines);
  return line === undefined ? {} : { line };
}

function checkKeys(items: readonly { key: unknown }[], lines: LineCounter): void {
  if (items.length > MAX_KEYS)
    throw new FormatError({
      code: 'recipe-invalid',
      ...placed(items[MAX_KEYS]!.key, lines),
      what: 'a map has too many keys',
      found: items.length.toLocaleString('en'),
      limit: `${MAX_KEYS.toLocaleString('en')} keys`,
    });
  const seen = new Set<string>();
  for (const { key } of items) {
    if (isMap(key) || isSeq(key))
      throw new FormatError({
        code: 'recipe-invalid',
        ...placed(key, lines),
        what: 'a key is a list or a map',
        hint: 'Put text that begins with [ or { into quotes.',
      });
    keepDigits(key);
    const name = keyOf(key);
    if (seen.has(name))
      throw new FormatError({
        code: 'recipe-invalid',
        ...placed(key, lines),
        what: `the key ${name} occurs twice in one map`,
        hint: 'Take one of them away.',
      });
    seen.add(name);
  }
}

/** A 64-bit number as a key stays as it is written: beyond 2^53, a double of it would be another number. */
function keepDigits(key: unknown): void {
  if (!isScalar(key) || typeof key.value !== 'number' || key.source === undefined) return;
  if (Number.isInteger(key.value) && !Number.isSafeInteger(key.value)) key.value = key.source;
}

function lineOfNode(node: unknown, lines: LineCounter): number | undefined {
  const range = (node as { range?: [number, number, number] | null } | undefined)?.range;
  return range ? lines.linePos(range[0]).line : undefined;
}

interface Pair {
  readonly key: unknown;
  readonly value: unknown;
}

/** Finds the lines of parts. Each map is gone through once, however many of its keys are asked for. */
function lineFinder(document: Document.Parsed, lines: LineCounter): (path: TextPath) => number {
  const pairsOf = new WeakMap<object, ReadonlyMap<string, Pair>>();
  const pairsIn = (map: YAMLMap): ReadonlyMap<string, Pair> => {
    const known = pairsOf.get(map);
    if (known !== undefined) return known;
    const pairs = new Map(map.items.map((pair) => [keyOf(pair.key), pair as Pair]));
    pairsOf.set(map, pairs);
    return pairs;
  };
  return (path) => {
    let node: unknown = document.contents;
    let line = 1;
    for (const step of path) {
      const pair = isMap(node) ? pairsIn(node).get(String(step)) : undefined;
      const next: unknown = isSeq(node) ? node.items[Number(step)] : pair?.value;
      const shown = pair?.key ?? next;
      if (shown === undefined) return line;
      line = lineOfNode(shown, lines) ?? line;
      node = next;
    }
    return line;
  };
}

function keyOf(key: unknown): string {
  return isScalar(key) ? String(key.value) : String(key);
}
