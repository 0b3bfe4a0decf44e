/** From a recipe's checked text to closures. A recipe is compiled once and then used for any number of files. */
import { KEY_KINDS, type KeyKind } from '../codecs';
import { FormatError } from '../faults';
import { compileEntries, type Binding } from './compile-entries';
import { compileStep, inLine, invalid, type Setting } from './compile-step';
import { parseExpression } from './expression';
import { compileKind, kindType } from './field-kinds';
import { compileFormula, type Names } from './formula';
import type { Demand, Field, FieldType, Formula, Recipe, Region, Shape } from './model';
import { parseRecipeText, type FieldText, type ParsedText, type RegionText, type TextPath } from './recipe-text';
import { isNumeric, sameValue, showValue, type Value } from './value';

type Open<T> = { -readonly [K in keyof T]: T[K] };

/**
 * Compiles a recipe from its text.
 *
 * @throws FormatError `recipe-invalid` or `recipe-circular`, with the line in the text
 */
export function compileRecipe(text: string): Recipe {
  const parsed = parseRecipeText(text);
  try {
    return compileParsed(text, parsed);
  } catch (error) {
    throw error instanceof FormatError ? error.with({ recipe: parsed.recipe.recipe }) : error;
  }
}

function compileParsed(text: string, parsed: ParsedText): Recipe {
  const { recipe } = parsed;
  const shapes = new Map<string, Open<Shape>>();
  for (const name of Object.keys(recipe.shapes)) {
    shapes.set(name, { name, line: parsed.lineOf(['shapes', name]), fields: [], fixedSize: undefined, minSize: 0 });
  }
  const regions = new Map<string, { index: number; type: FieldType | undefined }>();
  for (const [index, region] of recipe.regions.entries()) {
    const line = parsed.lineOf(['regions', index]);
    if (regions.has(region.region)) throw invalid(line, `region ${region.region} is described twice`);
    const plainBytes = region.holds === 'entries' || region.holds === 'bytes';
    const type = plainBytes ? undefined : kindType(region.holds, shapes);
    regions.set(region.region, { index, type });
  }
  const setting: Setting = { parsed, shapes, regions, slots: compileSlots(parsed) };
  const binding = entriesBinding(parsed, shapes, regions);
  for (const shape of shapes.values()) outlineShape(shape, setting);
  for (const shape of shapes.values()) compileShape(shape, setting, shape === binding.shape);
  for (const shape of shapes.values()) measureShape(shape, new Set());

  const compiled = recipe.regions.map((region, index) => compileRegion(region, index, setting));
  const dataRegion = compiled.find((region) => region.holds === 'entries');
  if (dataRegion === undefined) {
    throw invalid(parsed.lineOf(['regions']), 'no region holds the entries', '{ region: data, holds: entries }');
  }
  return {
    id: recipe.recipe,
    title: recipe.title,
    revision: recipe.revision,
    text,
    presents: recipe.presents,
    match: recipe.match.map(({ at, bytes }, i) => ({ at, bytes: matchBytes(bytes, parsed.lineOf(['match', i])) })),
    needs: setting.slots,
    shapes: [...shapes.values()],
    regions: compiled,
    readingOrder: readingOrder(compiled),
    entries: compileEntries(setting, binding),
    dataRegion,
  };
}

function compileSlots(parsed: ParsedText): Map<string, KeyKind> {
  const slots = new Map<string, KeyKind>();
  for (const [slot, kind] of Object.entries(parsed.recipe.needs ?? {})) {
    if (!Object.hasOwn(KEY_KINDS, kind)) {
      throw invalid(
        parsed.lineOf(['needs', slot]),
        `there is no kind of key ${kind}`,
        `one of ${Object.keys(KEY_KINDS).join(', ')}`,
      );
    }
    slots.set(slot, kind as KeyKind);
  }
  return slots;
}

/** `each: row in index.rows`: which list of which region the entries' rows are. */
function entriesBinding(parsed: ParsedText, shapes: ReadonlyMap<string, Shape>, regions: Names['regions']): Binding {
  const line = parsed.lineOf(['entries', 'each']);
  const match = /^\s*([A-Za-z_]\w*)\s+in\s+(\S+)\s*$/.exec(parsed.recipe.entries.each);
  if (match === null)
    throw invalid(
      line,
      `"${parsed.recipe.entries.each}" does not say where the rows are`,
      'NAME in region or NAME in region.field',
    );
  const [, name, path] = match;
  const [regionName, ...fieldNames] = path!.split('.');
  const region = regions.get(regionName!);
  if (region?.type === undefined)
    throw invalid(line, `no region with rows is called ${regionName}`, `one of ${[...regions.keys()].join(', ')}`);
  let type = region.type;
  for (const fieldName of fieldNames) {
    if (type.kind !== 'shape') throw invalid(line, `.${fieldName} needs a shape before the dot`);
    const as = parsed.recipe.shapes[type.shape.name]!.find((field) => field.field === fieldName)?.as;
    if (as === undefined) throw invalid(line, `shape ${type.shape.name} has no field ${fieldName}`);
    type = kindType(as, shapes);
  }
  if (type.kind !== 'list' || type.of.kind !== 'shape')
    throw invalid(line, `${path} is not a list of shapes`, 'shape[count]');
  return { name: name!, region: region.index, fieldNames, shape: type.of.shape };
}

/** Gives a shape its fields by name and type, so that formulas anywhere can refer to them. */
function outlineShape(shape: Open<Shape>, setting: Setting): void {
  const texts = setting.parsed.recipe.shapes[shape.name]!;
  shape.fields = texts.map((text, index) => {
    const line = setting.parsed.lineOf(['shapes', shape.name, index]);
    const twin = texts.findIndex((other) => other.field === text.field);
    if (twin !== index) throw invalid(line, `shape ${shape.name} has two fields called ${text.field}`);
    return placeholder(text, index, line, setting);
  });
}

/** A field whose kind knows only its type yet. */
function placeholder(text: FieldText, index: number, line: number, setting: Setting): Field {
  const type = inLine(line, () => kindType(text.as, setting.shapes));
  return {
    name: text.field,
    index,
    line,
    kind: { type } as Field['kind'],
    must: undefined,
    is: undefined,
    when: undefined,
    fresh: undefined,
  };
}

function compileShape(shape: Open<Shape>, setting: Setting, isRow: boolean): void {
  const { parsed, regions, shapes } = setting;
  const texts = parsed.recipe.shapes[shape.name]!;
  const fields = shape.fields as Open<Field>[];
  for (const [index, text] of texts.entries()) {
    const path: TextPath = ['shapes', shape.name, index];
    const line = parsed.lineOf(path);
    const earlier: Names = { shape, before: index, regions, entry: false };
    const all: Names = { shape, regions, entry: isRow };
    const little = (text.numbers ?? parsed.recipe.numbers) === 'little';
    const formula = (key: 'is' | 'new' | 'when', names: Names): Formula | undefined => {
      const source = text[key];
      return source === undefined ? undefined : compileFormula(source, parsed.lineOf([...path, key]), names);
    };
    const kind = inLine(parsed.lineOf([...path, 'as']), () =>
      compileKind(text.as, { little, names: earlier, shapes, line }),
    );
    Object.assign(fields[index]!, {
      kind,
      must: text.must === undefined ? undefined : compileDemand(text.must, kind.type, parsed.lineOf([...path, 'must'])),
      is: formula('is', all),
      when: formula('when', earlier),
      fresh: text.new === 'neighbour' ? text.new : formula('new', all),
    });
  }
}

/** Sums up the sizes of a shape's fields; a shape inside itself has no fixed size. */
function measureShape(shape: Open<Shape>, inside: Set<Shape>): void {
  if (inside.has(shape)) return;
  inside.add(shape);
  for (const field of shape.fields) {
    const { type } = field.kind;
    if (type.kind === 'shape') measureShape(type.shape, inside);
  }
  inside.delete(shape);
  const sizes = shape.fields.map((field) => (field.when === undefined ? field.kind.fixedSize : undefined));
  shape.fixedSize = sizes.reduce<number | undefined>(
    (sum, size) => (sum === undefined || size === undefined ? undefined : sum + size),
    0,
  );
  shape.minSize = shape.fields.reduce((sum, field) => sum + (field.when === undefined ? field.kind.minSize : 0), 0);
}

function compileRegion(text: RegionText, index: number, setting: Setting): Region {
  const { parsed, regions, shapes } = setting;
  const path: TextPath = ['regions', index];
  const line = parsed.lineOf(path);
  const names: Names = { regions, entry: false };
  const formula = (key: 'at' | 'length' | 'plain') =>
    text[key] === undefined ? undefined : compileFormula(text[key], parsed.lineOf([...path, key]), names);
  const at = formula('at');
  const constant =
    text.at !== undefined && /^(0x[0-9a-f_]+|[0-9][0-9_]*)$/i.test(text.at)
      ? Number(text.at.replaceAll('_', ''))
      : undefined;
  const holds =
    text.holds === 'entries' || text.holds === 'bytes'
      ? text.holds
      : inLine(parsed.lineOf([...path, 'holds']), () =>
          compileKind(text.holds, { little: parsed.recipe.numbers === 'little', names, shapes, line }),
        );
  if (holds !== 'entries' && at === undefined)
    throw invalid(line, `region ${text.region} does not say where it is`, 'at: OFFSET or at: FORMULA');
  if (holds === 'bytes' && text.length === undefined)
    throw invalid(line, `region ${text.region} does not say how long it is`, 'length: FORMULA');
  const through = (text.through ?? []).map((step, i) =>
    compileStep(step, parsed.lineOf([...path, 'through', i]), names, setting),
  );
  return {
    name: text.region,
    index,
    line,
    at,
    fixedAt: constant,
    length: formula('length'),
    plain: formula('plain'),
    through,
    holds,
    align: text.align ?? 1,
    fill: text.fill ?? 0,
  };
}

/** What `must` says: one value, a list, or a range such as `1..8`. */
function compileDemand(must: NonNullable<FieldText['must']>, type: FieldType, line: number): Demand {
  const choices = (Array.isArray(must) ? must : [must]).map((one) => demandOf(one, type, line));
  const [first] = choices;
  if (choices.length === 1) return first!;
  return {
    text: `one of ${choices.map((choice) => choice.text).join(', ')}`,
    holds: (value) => choices.some((choice) => choice.holds(value)),
    // The last of a list is the newest, as in versions.
    only: choices.at(-1)!.only,
  };
}

function demandOf(one: string | number | boolean, type: FieldType, line: number): Demand {
  if (type.kind !== 'value') throw invalid(line, 'must is for numbers, texts and bytes');
  if (type.of === 'text') return exactly(String(one));
  if (type.of === 'bytes') {
    if (typeof one === 'string' && /^([0-9a-f]{2}\s*)+$/i.test(one))
      return exactly(new Uint8Array(Buffer.from(one.replace(/\s/g, ''), 'hex')));
    throw invalid(line, `"${one}" is not a row of bytes`, 'hex digits, such as "52 45 45 4C"');
  }
  if (typeof one !== 'string') return exactly(one);
  const expression = inLine(line, () => parseExpression(one));
  if (expression.kind === 'number') return exactly(expression.value);
  if (expression.kind === 'range' && expression.from.kind === 'number' && expression.to.kind === 'number') {
    const { value: low } = expression.from;
    const { value: high } = expression.to;
    return {
      text: `${low.toLocaleString('en')} to ${high.toLocaleString('en')}`,
      holds: (value) => isNumeric(value) && value >= low && value <= high,
      only: low,
    };
  }
  throw invalid(line, `"${one}" is not a number`, 'a number, a list of numbers, or a range such as 1..8');
}

function exactly(wanted: Value): Demand {
  return { text: showValue(wanted), holds: (value) => sameValue(value, wanted), only: wanted };
}

function matchBytes(text: string, line: number): Uint8Array {
  if (/^([0-9a-f]{2} )*[0-9a-f]{2}$/i.test(text) && text.includes(' '))
    return new Uint8Array(Buffer.from(text.replaceAll(' ', ''), 'hex'));
  if ([...text].some((char) => char.charCodeAt(0) > 0x7e))
    throw invalid(line, `"${text}" is neither ASCII text nor hex bytes`, '"HOLD" or "48 4F 4C 44"');
  return new TextEncoder().encode(text);
}

/** Regions in the order in which their place, length and keys can be known. */
function readingOrder(regions: readonly Region[]): number[] {
  const order: number[] = [];
  const state = new Map<number, 'open' | 'done'>();
  const visit = (region: Region, from: Region | undefined) => {
    if (state.get(region.index) === 'done') return;
    if (state.get(region.index) === 'open') {
      throw new FormatError({
        code: 'recipe-circular',
        line: region.line,
        what: `regions ${from?.name} and ${region.name} each need the other to be read first`,
      });
    }
    state.set(region.index, 'open');
    const formulas = [
      region.at,
      region.length,
      region.plain,
      ...region.through.flatMap((step) => Object.values(step.params)),
    ];
    for (const formula of formulas) for (const index of formula?.uses.regions ?? []) visit(regions[index]!, region);
    state.set(region.index, 'done');
    if (region.holds !== 'entries') order.push(region.index);
  };
  for (const region of regions) visit(region, undefined);
  return order;
}
