/** Shapes: first their outlines, so that formulas anywhere can name their fields, then the fields themselves. */
import { compileFormula } from '../formula/compile-formula';
import type { Names } from '../formula/names';
import { compileKind, kindType } from '../kinds/compile-kind';
import { sealedKind } from '../kinds/sealed-kind';
import { choiceKind, namedValues } from '../kinds/shape-kinds';
import type { TextPath } from '../language/yaml-text';
import type { FieldText } from '../language/schema';
import type { Field, FieldKind, FieldType, Formula, Part, Shape } from '../model';
import { compileSteps } from './compile-step';
import { compileDemand } from './demand';
import { inLine, invalid, type Setting } from './setting';

export type Open<T> = { -readonly [K in keyof T]: T[K] };

/** A shape that knows its name and nothing else yet. */
export function emptyShape(name: string, line: number): Open<Shape> {
  const shape: Open<Shape> = {
    name,
    line,
    fields: [],
    fixedSize: undefined,
    minSize: 0,
    recursive: false,
    flows: false,
    compact: false,
    indexOf: (field) => shape.fields.findIndex((one) => one.name === field),
  };
  return shape;
}

/** Gives a shape its fields by name and type. */
export function outlineShape(shape: Open<Shape>, setting: Setting): void {
  const texts = setting.parsed.recipe.shapes[shape.name]!;
  const names = new Set<string>();
  shape.fields = texts.map((text, index): Field => {
    const line = setting.parsed.lineOf(['shapes', shape.name, index]);
    if (names.has(text.field)) throw invalid(line, `shape ${shape.name} has two fields called ${text.field}`);
    names.add(text.field);
    if (typeof text.as !== 'string' && text.by === undefined)
      throw invalid(line, `field ${text.field} has several kinds and nothing chooses`, 'by: FORMULA');
    return {
      name: text.field,
      index,
      line,
      kind: { type: outlineType(text, line, setting) } as FieldKind,
      must: undefined,
      is: undefined,
      when: undefined,
      fresh: undefined,
      changed: undefined,
      patch: undefined,
      parts: [],
      at: undefined,
      align: 1,
      size: undefined,
      sort: [],
      checks: [],
      marked: false,
      asked: false,
      isPlain: false,
    };
  });
  const byName = new Map(texts.map((text, index) => [text.field, index]));
  shape.indexOf = (name) => byName.get(name) ?? -1;
}

function outlineType(text: FieldText, line: number, setting: Setting): FieldType {
  if (typeof text.as !== 'string') return { kind: 'any' };
  const as = text.as;
  const type = inLine(line, () => kindType(as, setting.shapes));
  if (text.values !== undefined) return { kind: 'value', of: 'text' };
  if (text.parts === undefined) return type;
  const parts = new Map(Object.entries(text.parts).map(([name, part]) => [name, bitRange(part.bits, line)] as const));
  return { kind: 'value', of: 'number', parts };
}

/** `3` or `4..7` as shift and width. */
function bitRange(text: string, line: number): { shift: number; width: number } {
  const match = /^\s*(\d+)\s*(?:\.\.\s*(\d+)\s*)?$/.exec(text);
  const low = Number(match?.[1]);
  const high = match?.[2] === undefined ? low : Number(match[2]);
  if (match === null || high < low || high > 63) throw invalid(line, `"${text}" is no range of bits`, '0, or 4..7');
  return { shift: low, width: high - low + 1 };
}

/** Fills the fields in. `names` are those that hold in this shape. */
export function compileShape(shape: Open<Shape>, setting: Setting, names: Names): void {
  const texts = setting.parsed.recipe.shapes[shape.name]!;
  const fields = shape.fields as Field[];
  for (const [index, text] of texts.entries()) {
    const outline = fields[index]!;
    const compiled = compileField(text, index, outline.line, shape, setting, names);
    // Marks may have been set while other fields were compiled.
    fields[index] = { ...compiled, marked: outline.marked || compiled.at !== undefined, asked: outline.asked };
  }
}

function compileField(
  text: FieldText,
  index: number,
  line: number,
  shape: Shape,
  setting: Setting,
  names: Names,
): Field {
  const path: TextPath = ['shapes', shape.name, index];
  const lineAt = (key: string) => setting.parsed.lineOf([...path, key]);
  const reading: Names = { ...names, shape, before: index, field: index };
  const whole: Names = { ...names, shape, field: index };
  const formula = (key: 'is' | 'when' | 'at' | 'size' | 'changed' | 'patch', inside: Names) =>
    text[key] === undefined ? undefined : compileFormula(text[key], lineAt(key), inside);
  if (text.is !== undefined && text.changed !== undefined)
    throw invalid(lineAt('changed'), `field ${text.field} has both is and changed`, 'one of them');
  if (text.is !== undefined && text.patch !== undefined)
    throw invalid(lineAt('patch'), `field ${text.field} has both is and patch`, 'one of them');
  const plainKind = fieldKind(text, lineAt('as'), setting, reading);
  const kind =
    text.through === undefined
      ? plainKind
      : behindSteps(plainKind, text, (i) => setting.parsed.lineOf([...path, 'through', i]), reading, setting);
  const type = text.parts === undefined ? kind.type : outlineType(text, line, setting);
  if (text.new === 'neighbour' && !names.entry)
    throw invalid(lineAt('new'), 'a neighbour is only known in the rows of the entries');
  if (text.sort !== undefined && (type.kind !== 'list' || type.of.kind !== 'shape'))
    throw invalid(lineAt('sort'), 'only rows of a shape can be sorted');
  return {
    name: text.field,
    index,
    line,
    kind: type === kind.type ? kind : withType(kind, type),
    must: text.must === undefined ? undefined : compileDemand(namedMust(text), type, lineAt('must')),
    is: named(formula('is', whole), text),
    when: formula('when', reading),
    fresh:
      text.new === 'neighbour'
        ? 'neighbour'
        : named(
            text.new === undefined
              ? undefined
              : compileFormula(text.new, lineAt('new'), { ...whole, ...names.carries }),
            text,
          ),
    changed: named(formula('changed', { ...whole, ...names.carries }), text),
    patch: named(formula('patch', whole), text),
    parts: compileParts(text, path, type, setting, whole),
    at: formula('at', reading),
    align: text.align ?? 1,
    size: formula('size', reading),
    sort: (text.sort ?? []).map((key) => {
      const row = type.kind === 'list' && type.of.kind === 'shape' ? type.of.shape : undefined;
      return compileFormula(key, lineAt('sort'), { ...names, shape: row });
    }),
    checks: (text.check ?? []).map(({ that, say }, i) => ({
      that: compileFormula(that, setting.parsed.lineOf([...path, 'check', i, 'that']), whole),
      say,
    })),
    marked: false,
    asked: false,
    isPlain:
      text.is === undefined &&
      text.changed === undefined &&
      text.patch === undefined &&
      text.parts === undefined &&
      kind.chosen === undefined &&
      type.kind === 'value',
  };
}

/** @throws FormatError `recipe-invalid` when the field cannot lie behind steps, or its stored bytes have no end */
function behindSteps(
  kind: FieldKind,
  text: FieldText,
  lineOf: (step: number) => number,
  names: Names,
  setting: Setting,
): FieldKind {
  const steps = compileSteps(text.through!, lineOf, names, setting);
  const isConfined = text.size !== undefined;
  if (kind.flows || kind.type.kind === 'data')
    throw invalid(
      lineOf(0),
      `the field ${text.field} holds the bytes of entries, which cannot lie behind steps of its own`,
      'through: in entries, or in a region',
    );
  if (!isConfined && kind.fixedSize === undefined)
    throw invalid(lineOf(0), `the stored bytes of ${text.field} have no known end`, 'size: FORMULA beside through');
  const changesLength = steps.find(({ codec }) => codec.family === 'compression');
  if (!isConfined && changesLength !== undefined)
    throw invalid(
      lineOf(0),
      `${changesLength.text} changes the length of ${text.field}`,
      'size: FORMULA beside through',
    );
  return sealedKind(kind, steps, isConfined);
}

/** A number that has a name becomes it, so that formulas see one and the same. */
function named(formula: Formula | undefined, { values }: FieldText): Formula | undefined {
  if (formula === undefined || values === undefined) return formula;
  return {
    ...formula,
    evaluate: (scope) => {
      const value = formula.evaluate(scope);
      return typeof value === 'number' || typeof value === 'boolean' ? (values[String(Number(value))] ?? value) : value;
    },
  };
}

function namedMust({ must, values }: FieldText): NonNullable<FieldText['must']> {
  const nameOf = (one: string | number | boolean) => values?.[String(one)] ?? one;
  const named = (some: Extract<typeof must, string | number | boolean | unknown[]>) =>
    Array.isArray(some) ? some.map(nameOf) : nameOf(some);
  return typeof must === 'object' && 'not' in must ? { not: named(must.not) } : named(must!);
}

/** The same kind under a type with parts; its getters stay alive. */
function withType(kind: FieldKind, type: FieldType): FieldKind {
  return Object.create(kind, { type: { value: type, enumerable: true } }) as FieldKind;
}

function fieldKind(text: FieldText, line: number, setting: Setting, names: Names): FieldKind {
  const numbers = text.numbers ?? setting.numbers;
  const kindOf = (as: string) => inLine(line, () => compileKind(as, { numbers, names, shapes: setting.shapes, line }));
  if (typeof text.as === 'string') {
    const kind = kindOf(text.as);
    return text.values === undefined ? kind : namedValues(kind, text.values);
  }
  const by = compileFormula(text.by!, line, names);
  const alternatives = Object.entries(text.as).map(([key, as]) => ({
    key: key === 'else' ? undefined : key,
    kind: kindOf(as),
  }));
  return choiceKind(by, alternatives);
}

function compileParts(text: FieldText, path: TextPath, type: FieldType, setting: Setting, names: Names): Part[] {
  if (text.parts === undefined) return [];
  const taken = new Map<number, string>();
  return Object.entries(text.parts).map(([name, part]): Part => {
    const line = setting.parsed.lineOf([...path, 'parts', name]);
    const { shift, width } = (type as { parts: ReadonlyMap<string, { shift: number; width: number }> }).parts.get(
      name,
    )!;
    for (let bit = shift; bit < shift + width; bit++) {
      const other = taken.get(bit);
      if (other !== undefined) throw invalid(line, `bit ${bit} belongs to ${other} and to ${name}`);
      taken.set(bit, name);
    }
    return {
      name,
      line,
      shift,
      width,
      must: part.must === undefined ? undefined : compileDemand(part.must, { kind: 'value', of: 'number' }, line),
      is: part.is === undefined ? undefined : compileFormula(part.is, line, names),
      fresh: part.new === undefined ? undefined : compileFormula(part.new, line, names),
      patch: part.patch === undefined ? undefined : compileFormula(part.patch, line, names),
    };
  });
}
