import { codecNames, findCodec, unknownPacking, type Codec, type ParamSpec } from '../../codecs';
import { formulaOf } from '../formula/compile-formula';
import { noUses, type Names } from '../formula/names';
import type { Value } from '../formula/value';
import { parseExpression, type Expression } from '../language/expression';
import type { StepText } from '../language/schema';
import type { Formula, Step } from '../model';
import { inLine, invalid, type Setting } from './setting';

/** Compiles a chain. @throws FormatError `recipe-invalid` */
export function compileSteps(
  texts: readonly StepText[],
  lineOf: (index: number) => number,
  names: Names,
  setting: Setting,
): Step[] {
  return texts.map((text, i) => compileStep(text, lineOf(i), names, setting));
}

/**
 * Compiles one step of a `through` chain, such as `aes-256-cbc(content, iv: head.iv)`.
 *
 * @throws FormatError `recipe-invalid`
 */
function compileStep(text: StepText, line: number, names: Names, setting: Setting): Step {
  const expression = inLine(line, () => parseExpression(text.use));
  const call: Extract<Expression, { kind: 'call' }> | undefined =
    expression.kind === 'call'
      ? expression
      : expression.kind === 'name'
        ? { kind: 'call', name: expression.name, args: [], named: {} }
        : undefined;
  const codec = call === undefined ? undefined : (setting.own.get(call.name) ?? namedCodec(call.name));
  if (call === undefined || codec === undefined) {
    const known = [...setting.own.keys(), ...codecNames(), unknownPacking.name];
    throw invalid(line, `there is no step ${text.use}`, `one of ${known.join(', ')}`);
  }
  checkArguments(call, codec, line);
  const params: Record<string, Formula> = {};
  const slots: string[] = [];
  for (const [i, spec] of codec.params.entries()) {
    const given = call.args[i] ?? call.named[spec.name];
    if (given === undefined) {
      if (spec.otherwise === undefined) throw invalid(line, `${codec.name} needs ${spec.name}`, usage(codec));
      continue;
    }
    if (spec.type === 'word') params[spec.name] = wordFormula(given, spec, codec, line);
    else {
      slots.push(...slotsIn(given, setting));
      if (given.kind === 'name') checkSlot(given.name, spec, codec, line, setting);
      params[spec.name] = inLine(line, () => formulaOf(given, `${spec.name} of ${codec.name}`, line, names));
    }
  }
  const when =
    text.when === undefined
      ? undefined
      : inLine(line, () => formulaOf(parseExpression(text.when!), text.when!, line, names));
  return { text: text.use, line, codec, params, slots: [...new Set(slots)], when };
}

function namedCodec(name: string): Codec | undefined {
  return name === unknownPacking.name ? unknownPacking : findCodec(name);
}

function checkArguments(call: Extract<Expression, { kind: 'call' }>, codec: Codec, line: number): void {
  if (call.args.length > codec.params.length)
    throw invalid(line, `${codec.name} takes ${codec.params.length} values`, usage(codec));
  const unknown = Object.keys(call.named).find((key) => !codec.params.some((spec) => spec.name === key));
  if (unknown !== undefined) throw invalid(line, `${codec.name} has no ${unknown}`, usage(codec));
}

function usage(codec: Codec): string {
  return codec.params.length === 0 ? codec.name : `${codec.name}(${codec.params.map((one) => one.name).join(', ')})`;
}

function wordFormula(given: Expression, spec: ParamSpec, codec: Codec, line: number): Formula {
  const word = given.kind === 'name' ? given.name : given.kind === 'text' ? given.value : '';
  if (!spec.words!.includes(word))
    throw invalid(line, `${codec.name} knows no ${spec.name} ${word}`, `one of ${spec.words!.join(', ')}`);
  return constant(word, line);
}

/** Key slots named anywhere in a parameter. */
function slotsIn(expression: Expression, setting: Setting): string[] {
  switch (expression.kind) {
    case 'name':
      return setting.slots.has(expression.name) ? [expression.name] : [];
    case 'call':
      return [...expression.args, ...Object.values(expression.named)].flatMap((one) => slotsIn(one, setting));
    case 'binary':
      return [...slotsIn(expression.left, setting), ...slotsIn(expression.right, setting)];
    case 'unary':
    case 'member':
    case 'index':
      return slotsIn(expression.of, setting);
    default:
      return [];
  }
}

function checkSlot(name: string, spec: ParamSpec, codec: Codec, line: number, setting: Setting): void {
  const slot = setting.slots.get(name);
  if (slot === undefined || spec.length === undefined || slot.bytes === 0 || slot.bytes === spec.length) return;
  throw invalid(line, `${codec.name} wants ${spec.length} bytes, and ${name} is ${slot.kind}`);
}

function constant(value: Value, line: number): Formula {
  return { text: String(value), line, uses: noUses(), evaluate: () => value };
}
