/** Calls in formulas: the plain functions, those that look at the file, and hashes. */
import type { FieldType, Uses } from '../model';
import { aggregate } from './aggregates';
import { invalid, namesForContent, type Call, type Compile } from './call-targets';
import { PLAIN_FUNCTIONS, type PlainFunction } from './functions';
import { hashCall } from './hash-calls';
import { ANY, BYTES, NUMBER, TEXT, type Names, type Piece } from './names';
import { isList, isPool, sameValue } from './value';
import { placeCall, blockAfter, hexCall, poolCall, isInRegion, rowWhere, neighbour } from './place-calls';
import { FILE_FUNCTIONS, arity, condition } from './call-words';

/** @throws FormatError `recipe-invalid` */
export function compileCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  const plain = Object.hasOwn(PLAIN_FUNCTIONS, call.name) ? PLAIN_FUNCTIONS[call.name] : undefined;
  if (plain !== undefined) return plainCall(call, plain, compile);
  switch (call.name) {
    case 'if':
      return condition(call, compile);
    case 'either':
      return either(call, compile);
    case 'count':
      return call.args.length > 1 ? aggregate(call, names, uses, compile) : countCall(call, names, uses, compile);
    case 'sum':
    case 'least':
    case 'greatest':
      return aggregate(call, names, uses, compile);
    case 'start':
    case 'length':
      return placeCall(call, names, uses, compile);
    case 'volumes':
      arity(call, 0);
      uses.layout = uses.place = true;
      return { type: NUMBER, evaluate: (scope) => scope.file.volumeCount() };
    case 'file-name':
      arity(call, 0);
      return { type: TEXT, evaluate: (scope) => scope.file.fileName() };
    case 'block-after':
      return blockAfter(call, uses, compile);
    case 'hex':
      return hexCall(call);
    case 'text-at':
    case 'place':
    case 'index-of':
      return poolCall(call, names, uses, compile);
    case 'row-where':
      return rowWhere(call, names, uses, compile);
    case 'before':
    case 'after':
      return neighbour(call, names, uses, compile);
    case 'plain':
    case 'stored':
    case 'span':
    case 'bytes':
    case 'blanked':
    case 'behind':
    case 'volume':
      throw invalid(
        `${call.name}(…) gives bytes of the file, and they can only be hashed`,
        `such as crc32(${call.name}(…))`,
      );
    default:
      return hashCall(call, names, uses, compile, [...Object.keys(FILE_FUNCTIONS), ...Object.keys(PLAIN_FUNCTIONS)]);
  }
}

function plainCall(call: Call, plain: PlainFunction, compile: Compile): Piece {
  if (call.args.length < plain.least || call.args.length > plain.most || Object.keys(call.named).length > 0)
    throw invalid(`${call.name} is called with ${call.args.length} values`, plain.call);
  const args = call.args.map((arg, i): Piece => {
    const words = plain.words?.[i];
    if (words === undefined) return compile(arg);
    const word = arg.kind === 'name' ? arg.name : arg.kind === 'text' ? arg.value : '';
    if (!words.includes(word))
      throw invalid(`${call.name} does not know ${word || 'this'}`, `one of ${words.join(', ')}`);
    return { type: TEXT, evaluate: () => word };
  });
  const types: Readonly<Record<PlainFunction['gives'], FieldType>> = {
    number: NUMBER,
    text: TEXT,
    bytes: BYTES,
    any: ANY,
  };
  const [a, b] = args;
  const type = types[plain.gives];
  if (args.length === 1) return { type, evaluate: (scope) => plain.compute([a!.evaluate(scope)]) };
  if (args.length === 2) return { type, evaluate: (scope) => plain.compute([a!.evaluate(scope), b!.evaluate(scope)]) };
  return { type, evaluate: (scope) => plain.compute(args.map((arg) => arg.evaluate(scope))) };
}

function either(call: Call, compile: Compile): Piece {
  if (call.args.length < 2 || Object.keys(call.named).length > 0)
    throw invalid('either takes two values or more', FILE_FUNCTIONS.either!.call);
  const [first, ...others] = call.args.map((arg) => compile(arg)) as [Piece, ...Piece[]];
  return {
    type: others.every(({ type }) => type.kind === 'value') ? first.type : ANY,
    evaluate: (scope) => {
      const { found } = scope;
      if (found !== undefined) for (const other of others) if (sameValue(other.evaluate(scope), found)) return found;
      return first.evaluate(scope);
    },
  };
}

function countCall(call: Call, names: Names, uses: Uses, compile: Compile): Piece {
  arity(call, 1);
  const [of] = call.args;
  const word = of?.kind === 'name' ? of.name : '';
  uses.layout = true;
  // A field that can be counted comes before the word; a mere number of that name does not.
  const sibling = word === '' ? -1 : (names.shape?.indexOf(word) ?? -1);
  if (sibling >= 0 && names.shape!.fields[sibling]!.kind.type.kind !== 'value') return itemCount(compile(of!));
  // Lists of the row itself stay as they are, wherever it lies.
  uses.place ||= ['entries', 'blocks', 'folders'].includes(word) || isInRegion(of!, names);
  if (word === 'entries') return { type: NUMBER, evaluate: (scope) => scope.file.entryCount() };
  if (word === 'blocks') return { type: NUMBER, evaluate: (scope) => scope.file.blockCount() };
  if (word === 'folders') return { type: NUMBER, evaluate: (scope) => scope.file.folderCount() };
  return itemCount(compile(of!, namesForContent(of!, names)));
}

function itemCount(list: Piece): Piece {
  if (!['list', 'pool', 'any'].includes(list.type.kind))
    throw invalid('count wants entries, blocks, folders, a repeated field or a pool', 'count(entries)');
  return {
    type: NUMBER,
    evaluate: (scope) => {
      const value = list.evaluate(scope);
      return isPool(value) ? value.count : isList(value) ? value.length : 0;
    },
  };
}
