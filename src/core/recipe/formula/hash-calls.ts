/** Hashes in formulas: over values, over the bytes of an entry, of a region, of a stretch of the file. */
import { findHash, hasherKey, hasherNames, hashOf, type ParamValue } from '../../codecs';
import type { Expression } from '../language/expression';
import type { ContentPart, FieldType, Uses } from '../model';
import { wrongType } from './arithmetic';
import { fieldNamed, invalid, mark, regionNamed, volumeNamed, type Call, type Compile } from './call-targets';
import { ANY, BYTES, NUMBER, type Names, type Piece } from './names';
import { type Scope, type Value } from './value';
import { wholeNumber } from './show-value';

/** The hash that is called, with its parameters. */
interface CalledHash {
  /** What distinguishes it from every other hash of the recipe. */
  readonly name: string;
  /** The key of its hasher. */
  key(scope: Scope): string;
}

/** @param functions names of what can be called besides hashes, for messages */
export function hashCall(call: Call, names: Names, uses: Uses, compile: Compile, functions: readonly string[]): Piece {
  const own = names.hashes.get(call.name);
  const facts = findHash(call.name);
  if (own === undefined && facts === undefined)
    throw invalid(
      `there is no function ${call.name}`,
      `one of ${[...functions, ...hasherNames(), ...names.hashes.keys()].sort().join(', ')}; and, for a hash to run over, blanked, bytes, plain, span, stored`,
    );
  const [of] = call.args;
  const params = own?.takes ?? facts!.params.map(({ name }) => name);
  if (of === undefined || call.args.length !== 1)
    throw invalid(`${call.name} takes one value`, usage(call.name, params));
  const stranger = Object.keys(call.named).find((name) => !params.includes(name));
  if (stranger !== undefined) throw invalid(`${call.name} has no ${stranger}`, usage(call.name, params));
  const missing =
    own === undefined
      ? facts!.params.find(({ name, otherwise }) => otherwise === undefined && call.named[name] === undefined)?.name
      : own.takes.find((name) => call.named[name] === undefined);
  if (missing !== undefined) throw invalid(`${call.name} needs ${missing}`, usage(call.name, params));
  // A hash over the bytes of an entry is worked out where no row is at hand: its parameters are in the file.
  const isOverEntry =
    (of.kind === 'member' && of.of.kind === 'name' && of.of.name === 'entry' && OVER_ENTRY.has(of.name)) ||
    (of.kind === 'call' && of.name === 'behind');
  const hash = calledHash(call, own?.key ?? call.name, isOverEntry ? fileNames(names) : names, uses, compile);
  // What a hash of the recipe's own gives is known when it has run.
  const type: FieldType = own !== undefined ? ANY : GIVES_BYTES.test(call.name) ? BYTES : NUMBER;
  const thing = hashedThing(of, hash, names, uses, compile);
  if (thing !== undefined) return { type, evaluate: thing };
  const value = compile(of);
  return {
    type,
    evaluate: (scope) => {
      const bytes = value.evaluate(scope);
      if (typeof bytes === 'string') return hashOf(hash.key(scope), new TextEncoder().encode(bytes));
      if (bytes instanceof Uint8Array) return hashOf(hash.key(scope), bytes);
      throw wrongType(call.name, 'a text or bytes', bytes);
    },
  };
}

const OVER_ENTRY: ReadonlySet<string> = new Set(['data', 'packed']);

/** Hashes that are longer than 64 bits. */
const GIVES_BYTES = /^(md5|sha|ripemd|hmac|cmac|blake|xxh3-128)/;

const usage = (name: string, params: readonly string[]) =>
  `${name}(text or bytes${params.map((param) => `, ${param}: …`).join('')})`;

const fileNames = (names: Names): Names => ({
  ...names,
  shape: undefined,
  rows: [],
  entry: false,
  block: false,
  folder: false,
  own: undefined,
});

function calledHash(call: Call, key: string, names: Names, uses: Uses, compile: Compile): CalledHash {
  const given = Object.entries(call.named);
  const constant = Object.fromEntries(
    given.flatMap(([name, value]): [string, ParamValue][] =>
      value.kind === 'number' || value.kind === 'text' ? [[name, value.value]] : [],
    ),
  );
  if (Object.keys(constant).length === given.length) {
    const whole = hasherKey(key, constant);
    return { name: whole, key: () => whole };
  }
  const pieces = given.map(([name, value]): [string, Piece] => [name, compile(value, names, uses)]);
  return {
    name: `${key}@${JSON.stringify(call.named, (_, part: unknown) => (typeof part === 'bigint' ? String(part) : part))}`,
    key: (scope) =>
      hasherKey(
        key,
        Object.fromEntries(
          pieces.map(([name, piece]): [string, ParamValue] => [name, paramOf(call.name, name, piece.evaluate(scope))]),
        ),
      ),
  };
}

function paramOf(hash: string, name: string, value: Value): ParamValue {
  if (typeof value === 'boolean') return Number(value);
  if (typeof value === 'number' || typeof value === 'bigint' || typeof value === 'string') return value;
  if (value instanceof Uint8Array) return value;
  throw wrongType(`${name} of ${hash}`, 'a number, a text or bytes', value);
}

/** `behind(entry, 1)`: the bytes behind the first step of its chain, in the order of reading. */
function behindPart({ args }: Call): ContentPart {
  const [of, count] = args;
  if (of?.kind !== 'name' || of.name !== 'entry' || count?.kind !== 'number' || count.value < 1 || args.length !== 2)
    throw invalid('behind wants the entry and a number of steps', 'behind(entry, 1)');
  return `behind-${Number(count.value)}`;
}

function overPart(which: ContentPart, { name, key }: CalledHash, names: Names, uses: Uses): (scope: Scope) => Value {
  if (!names.entry) throw invalid('there is no entry here');
  if (!uses.content.some((one) => one.which === which && one.name === name))
    uses.content.push({ which, name, hasher: key });
  return (scope) => scope.entry?.content(which, name);
}

/** A hash over something that is no value: worked out elsewhere, asked for here. */
function hashedThing(
  of: Expression,
  hash: CalledHash,
  names: Names,
  uses: Uses,
  compile: Compile,
): ((scope: Scope) => Value) | undefined {
  if (of.kind === 'member' && of.of.kind === 'name' && of.of.name === 'entry') {
    if (of.name !== 'data' && of.name !== 'packed') return undefined;
    return overPart(of.name, hash, names, uses);
  }
  if (of.kind !== 'call') return undefined;
  if (of.name === 'behind') return overPart(behindPart(of), hash, names, uses);
  if (of.name === 'plain' || of.name === 'stored') {
    const region = regionNamed(of.args[0]!, names, of.name);
    const which = of.name;
    const volume = names.entryRegions?.get(region);
    if (volume !== undefined) return overEntries(region, volume, hash, names, uses);
    uses.regionBytes.add(region);
    uses.layout = uses.place = true;
    return (scope) => hashOf(hash.key(scope), scope.file.bytes(region, which));
  }
  if (of.name === 'blanked') {
    const [inner, fill] = of.args;
    if (inner?.kind !== 'call' || names.field === undefined || names.shape === undefined)
      throw invalid('blanked wants bytes(…) or span(…), in the formula of a field', 'blanked(span(0, end))');
    mark(names.shape, names.field);
    const { field } = names;
    const fillOf = fill === undefined ? undefined : compile(fill);
    const { span, space } = spanOf(inner, names, uses, compile);
    return (scope) => {
      const [from, to] = span(scope);
      const at = scope.fields!.startOf(field);
      const length = scope.fields!.lengthOf(field);
      const blank = { at, length, fill: fillOf === undefined ? 0 : wholeNumber(fillOf.evaluate(scope), 'the fill') };
      return scope.file.spanHash(hash.key(scope), { space, volume: scope.volume }, from, to, blank);
    };
  }
  if (of.name === 'volume') {
    const volume = volumeNamed(of, names, compile);
    uses.layout = uses.place = uses.late = true;
    return (scope) => {
      const index = volume(scope);
      if (index < 0) return undefined;
      return scope.file.spanHash(
        hash.key(scope),
        { space: undefined, volume: index },
        0,
        scope.file.volumeSize(index),
        undefined,
      );
    };
  }
  if (of.name !== 'bytes' && of.name !== 'span') return undefined;
  const { span, space } = spanOf(of, names, uses, compile);
  return (scope) => {
    const [from, to] = span(scope);
    return scope.file.spanHash(hash.key(scope), { space, volume: scope.volume }, from, to, undefined);
  };
}

/** A hash over a region of entries: these are not in memory, so it is worked out as the bytes go by. */
function overEntries(region: number, set: string, hash: CalledHash, names: Names, uses: Uses): (scope: Scope) => Value {
  if (names.volumeSets?.get(set) === true)
    throw invalid('a region of entries in numbered volumes has no one place', 'volume(data, 2), or span(…)');
  uses.layout = uses.place = uses.late = true;
  return (scope) => {
    const { file } = scope;
    const volume = file.volumeIndex(set, undefined);
    if (volume < 0) return undefined;
    const from = file.start(region);
    return file.spanHash(hash.key(scope), { space: undefined, volume }, from, from + file.length(region), undefined);
  };
}

interface Span {
  readonly span: (scope: Scope) => [number, number];
  /** The unlocked region it lies in; undefined for the file. */
  readonly space: number | undefined;
}

function spanOf(call: Call, names: Names, uses: Uses, compile: Compile): Span {
  uses.layout = true;
  // Fields around an entry's bytes are the same bytes wherever these lie.
  uses.place ||= !(call.name === 'bytes' && names.around === true);
  uses.late = true;
  if (call.name === 'span') {
    const [from, to] = call.args.map((arg) => compile(arg));
    if (from === undefined || to === undefined) throw invalid('span wants two offsets', 'span(0, start(index))');
    const span = (scope: Scope): [number, number] => [
      wholeNumber(from.evaluate(scope), 'the start of the span'),
      wholeNumber(to.evaluate(scope), 'the end of the span'),
    ];
    return { span, space: names.space };
  }
  const [range] = call.args;
  const from = range?.kind === 'range' ? range.from : range;
  const to = range?.kind === 'range' ? range.to : range;
  const first = from === undefined ? undefined : fieldNamed(from, names, uses, compile);
  const last = to === undefined ? undefined : fieldNamed(to, names, uses, compile);
  if (call.name !== 'bytes' || first === undefined || last === undefined)
    throw invalid('bytes wants fields of this shape, or one field of a region', 'bytes(first..last)');
  if (names.around === true && names.shape !== undefined) {
    const covered = names.shape.fields.slice(first.index, last.index + 1);
    if (covered.some(({ kind }) => kind.type.kind === 'data'))
      throw invalid(
        'bytes(…) around an entry cannot cover its data',
        'a hash over the entry itself',
        'Use crc32(entry.packed) for its stored bytes, crc32(entry.data) for the plain ones.',
      );
  }
  const span = (scope: Scope): [number, number] => {
    const start = first.of(scope);
    const end = last.of(scope);
    return [start?.startOf(first.index) ?? 0, (end?.startOf(last.index) ?? 0) + (end?.lengthOf(last.index) ?? 0)];
  };
  return { span, space: spaceOf(from!, names) };
}

/** Offsets of a field named through its region count in that region. */
function spaceOf(expression: Expression, names: Names): number | undefined {
  let root = expression;
  while (root.kind === 'member') root = root.of;
  const region = root !== expression && root.kind === 'name' ? names.regions.get(root.name) : undefined;
  if (region === undefined) return names.space;
  return names.unlocked?.has(region.index) === true ? region.index : undefined;
}
