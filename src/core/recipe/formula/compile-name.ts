/** Names in formulas. */
import type { Shape, Uses } from '../model';
import { invalid, type Compile } from './call-targets';
import { ANY, NUMBER, TEXT, type Names, type Piece } from './names';
import type { Value } from './value';
import { letPiece } from './lets';

const CONSTANTS: Readonly<Record<string, Value>> = { true: true, false: false, nothing: undefined };

export function compileName(name: string, names: Names, uses: Uses, compile: Compile): Piece {
  if (Object.hasOwn(CONSTANTS, name)) return { type: NUMBER, evaluate: () => CONSTANTS[name] };
  const index = names.shape?.indexOf(name) ?? -1;
  if (names.shape !== undefined && index >= 0) return siblingField(names.shape, index, name, names, uses);
  refuseHidden(name, names);
  const row = names.rows.findIndex((one) => one.name === name);
  if (row >= 0) {
    uses.entry.add('row');
    return { type: { kind: 'shape', shape: names.rows[row]!.shape }, evaluate: (scope) => scope.rows[row] };
  }
  const special = specialName(name, names, uses);
  if (special !== undefined) return special;
  // Within its own formula a name means what it means without `let`.
  const isOpen = names.letPath?.includes(name) === true;
  const known = isOpen ? undefined : names.lets.get(name);
  if (known !== undefined) return letPiece(name, known, names, uses, compile);
  if (names.volumes?.has(name)) return { type: TEXT, evaluate: () => name };
  const region = names.regions.get(name);
  if (region !== undefined) {
    if (region.type === undefined) throw invalid(`region ${name} has no fields`);
    uses.elsewhere = true;
    uses.regions.add(region.index);
    const { index: regionIndex } = region;
    return { type: region.type, evaluate: (scope) => scope.file.region(regionIndex) };
  }
  if (names.slots.has(name)) return { type: { kind: 'value', of: 'bytes' }, evaluate: (scope) => scope.file.key(name) };
  if (isOpen) throw invalid(`${name} in let leads back to itself`, [...names.letPath!, name].join(', then '));
  throw invalid(`nothing here is called ${name}`, knownNames(names));
}

/** Words with a meaning of their own wherever a formula is. Only fields may be called so: they come first. */
const BUILT_IN: ReadonlySet<string> = new Set([
  ...['end', 'here', 'item', 'index', 'outer', 'own'],
  ...['entry', 'previous', 'block', 'volume', 'folder'],
]);

/** @throws FormatError `recipe-invalid` when a name of the recipe's own means something else already */
export function refuseHidden(name: string, { shape, rows, regions, lets, slots, volumes }: Names): void {
  if (!BUILT_IN.has(name) || (shape !== undefined && shape.indexOf(name) >= 0)) return;
  // A shape may well be called folder or item, and its rows are then called so where entries are bound to them.
  const isRow = name !== 'folder' && name !== 'item' && rows.some((row) => row.name === name);
  const what = isRow
    ? 'a row'
    : regions.has(name)
      ? 'a region'
      : lets.has(name)
        ? 'a formula in let'
        : slots.has(name)
          ? 'a key slot'
          : volumes?.has(name) === true
            ? 'a volume'
            : undefined;
  if (what === undefined) return;
  throw invalid(`${name} is a built-in word, and ${what} is called so`, undefined, 'Give it another name.');
}

function knownNames(names: Names): string | undefined {
  const known = [
    ...(names.shape?.fields.map((field) => field.name) ?? []),
    ...names.rows.map((row) => row.name),
    ...names.regions.keys(),
    ...names.lets.keys(),
    ...names.slots,
    ...(names.entry ? ['entry'] : []),
    ...(names.block ? ['block'] : []),
    ...(names.folder ? ['folder'] : []),
    ...(names.own === undefined ? [] : ['own']),
  ];
  return known.length > 0 ? `one of ${known.join(', ')}` : undefined;
}

function siblingField(shape: Shape, index: number, name: string, names: Names, uses: Uses): Piece {
  if (names.before !== undefined && index >= names.before)
    throw invalid(`field ${name} is not read yet at this place`, 'a field before this one');
  uses.siblings.add(index);
  return {
    get type() {
      return shape.fields[index]!.kind.type;
    },
    evaluate: (scope) => scope.fields!.get(index),
  };
}

function specialName(name: string, names: Names, uses: Uses): Piece | undefined {
  switch (name) {
    case 'end':
      uses.layout = uses.place = true;
      uses.end = true;
      return { type: NUMBER, evaluate: (scope) => scope.file.volumeSize(scope.volume) };
    case 'here':
      uses.layout = uses.place = true;
      return { type: NUMBER, evaluate: (scope) => scope.here };
    case 'item':
      return names.item === undefined ? undefined : { type: names.item, evaluate: (scope) => scope.item };
    case 'index':
      return { type: NUMBER, evaluate: (scope) => scope.index };
    case 'own-index':
      return { type: NUMBER, evaluate: (scope) => scope.ownIndex ?? scope.index };
    case 'outer':
      uses.elsewhere = true;
      return { type: ANY, evaluate: (scope) => scope.outer.at(-1) };
    case 'own':
      if (names.own === undefined) return undefined;
      uses.entry.add('own');
      return { type: { kind: 'shape', shape: names.own }, evaluate: (scope) => scope.own };
    default:
      return undefined;
  }
}
