/** Functions that ask where something lies. */
import { FormatError } from '../../faults';
import type { Expression } from '../language/expression';
import type { Uses } from '../model';
import { wrongType } from './arithmetic';
import {
  fieldNamed,
  invalid,
  isRegion,
  namesForContent,
  regionNamed,
  volumeNamed,
  type Call,
  type Compile,
} from './call-targets';
import { BYTES, NUMBER, TEXT, type Names, type Piece } from './names';
import { namesOnly, neighbourFinder } from './neighbours';
import { isFields, isList, isPool, sameValue, type PoolValue, type Scope } from './value';
import { showValue, wholeNumber } from './show-value';
import { FILE_FUNCTIONS, arity } from './call-words';

export function placeCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  uses.layout = true;
  const [of] = call.args;
  if (of?.kind === 'call' && of.name === 'plain' && of.args.length === 1 && call.name === 'length') {
    const region = regionNamed(of.args[0]!, names, 'plain');
    uses.place = true;
    return { type: NUMBER, evaluate: (scope) => scope.file.plainLength(region) };
  }
  if (of?.kind === 'call' && of.name === 'volume' && call.name === 'length') {
    const volume = volumeNamed(of, names, compile);
    uses.place = uses.end = true;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const index = volume(scope);
        return index < 0 ? 0 : scope.file.volumeSize(index);
      },
    };
  }
  const field = isRegion(of!, names, call.name) ? undefined : fieldNamed(of!, names, uses, compile);
  const start = call.name === 'start';
  if (field === undefined || start) uses.place = true;
  if (field !== undefined) {
    const { index } = field;
    return {
      type: NUMBER,
      evaluate: (scope) => {
        const fields = field.of(scope);
        return fields === undefined ? 0 : start ? fields.startOf(index) : fields.lengthOf(index);
      },
    };
  }
  const region = regionNamed(of!, names, call.name);
  return start
    ? { type: NUMBER, evaluate: (scope) => scope.file.start(region) }
    : { type: NUMBER, evaluate: (scope) => scope.file.length(region) };
}

export function blockAfter(call: Call, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  uses.layout = uses.place = true;
  const at = compile(call.args[0]!);
  return {
    type: NUMBER,
    evaluate: (scope) => scope.file.blockAfter(wholeNumber(at.evaluate(scope), 'the offset of a block')),
  };
}

export function hexCall(call: Call): Piece {
  arity(call, 1);
  const [text] = call.args;
  if (text?.kind !== 'text' || !/^([0-9a-fA-F]{2}\s*)*$/.test(text.value))
    throw invalid('hex wants a text of hex digits', 'hex("0A 1B")');
  const bytes = new Uint8Array(Buffer.from(text.value.replace(/\s/g, ''), 'hex'));
  return { type: BYTES, evaluate: () => bytes };
}

export function poolCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 2);
  const pool = compile(call.args[0]!, namesForContent(call.args[0]!, names));
  if (pool.type.kind !== 'pool' && pool.type.kind !== 'any')
    throw invalid(`${call.name} wants a pool`, FILE_FUNCTIONS[call.name]!.call);
  const value = compile(call.args[1]!);
  const poolOf = (scope: Scope): PoolValue => {
    const found = pool.evaluate(scope);
    if (isPool(found)) return found;
    throw wrongType(call.name, 'a pool', found);
  };
  if (call.name === 'text-at')
    return { type: TEXT, evaluate: (scope) => poolOf(scope).textAt(wholeNumber(value.evaluate(scope), 'the offset')) };
  uses.layout = uses.place = true;
  const textOf = (scope: Scope) => {
    const text = value.evaluate(scope);
    if (typeof text === 'string') return text;
    throw wrongType(call.name, 'a text', text);
  };
  return call.name === 'place'
    ? { type: NUMBER, evaluate: (scope) => poolOf(scope).place(textOf(scope), scope.found) }
    : { type: NUMBER, evaluate: (scope) => poolOf(scope).indexOf(textOf(scope), scope.found) };
}

/** True when a path starts at a region. */
export function isInRegion(path: Expression, names: Names): boolean {
  let root = path;
  while (root.kind === 'member' || root.kind === 'index') root = root.of;
  if (root.kind !== 'name' || (names.shape?.indexOf(root.name) ?? -1) >= 0) return false;
  return names.regions.has(root.name) && !names.rows.some((row) => row.name === (root as { name: string }).name);
}

export function rowWhere(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 3);
  uses.layout = true;
  // Lists of the row itself stay as they are, wherever it lies.
  uses.place ||= isInRegion(call.args[0]!, names);
  const list = compile(call.args[0]!);
  const field = call.args[1]!.kind === 'name' ? call.args[1]!.name : '';
  const wanted = compile(call.args[2]!);
  if (list.type.kind === 'list' && list.type.of.kind === 'shape' && list.type.of.shape.indexOf(field) < 0)
    throw invalid(`shape ${list.type.of.shape.name} has no field ${field}`);
  return {
    type: NUMBER,
    evaluate: (scope) => {
      const items = list.evaluate(scope);
      const value = wanted.evaluate(scope);
      const same = (index: number) => {
        const item = isList(items) ? items.at(index) : undefined;
        return isFields(item) && sameValue(item.get(item.shape.indexOf(field)), value);
      };
      const count = isList(items) ? items.length : 0;
      // What was found is right among several that are alike.
      if (typeof scope.found === 'number' && scope.found < count && same(scope.found)) return scope.found;
      for (let i = 0; i < count; i++) if (same(i)) return i;
      throw new FormatError({
        code: 'layout-impossible',
        what: `no row has this ${field}`,
        found: showValue(value),
        hint: 'State `folders` in the recipe where rows of this table are to be added.',
      });
    },
  };
}

export function neighbour(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 2);
  const [row, condition] = call.args;
  const bound = names.rows.findIndex((one) => row?.kind === 'name' && one.name === row.name);
  if (bound < 0) throw invalid(`${call.name} wants the row that each binds`, FILE_FUNCTIONS[call.name]!.call);
  uses.elsewhere = true;
  const test = compile(condition!);
  const step = call.name === 'before' ? -1 : 1;
  const { name, shape } = names.rows[bound]!;
  const find = neighbourFinder(bound, step, test.evaluate, namesOnly(name, condition!, names));
  uses.neighbours.push({ step, find });
  return { type: { kind: 'shape', shape }, evaluate: find };
}
