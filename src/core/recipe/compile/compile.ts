/** From a recipe's checked text to closures. A recipe is compiled once and then used for any number of files. */
import { hasherNames, KEY_KINDS } from '../../codecs';
import { FormatError, faultOf } from '../../faults';
import { compileFormula } from '../formula/compile-formula';
import type { Names } from '../formula/names';
import { showValue } from '../formula/show-value';
import { kindType } from '../kinds/compile-kind';
import { parseExpression, type Expression } from '../language/expression';
import { parseRecipeText, type ParsedText } from '../language/recipe-text';
import type { FieldType, Formula, KeySlot, Recipe, Shape } from '../model';
import { ownCodec, ownHash } from '../sandbox/own-step';
import { compileEntries } from './compile-entries';
import { compileBindings } from './compile-bindings';
import { compileClip, compileMesh } from './compile-mesh';
import { compileFont } from './compile-font';
import { compilePicture } from './compile-picture';
import { compileRecords } from './compile-records';
import { checkSolid, compileRegion, readingOrder } from './compile-regions';
import { compileShape, emptyShape, outlineShape, type Open } from './compile-shapes';
import { measureShapes } from './measure-shapes';
import { compileSound } from './compile-sound';
import { compileSteps } from './compile-step';
import { inLine, invalid, isNumbered, type Setting } from './setting';
import { compileMatch } from './signatures';
import { namesByShape } from './names-by-shape';
import { compileVolumes, compilePaths, layoutsOf } from './compile-volumes';

/**
 * Compiles a recipe from its text.
 *
 * @throws FormatError `recipe-invalid` or `recipe-circular`, with the line in the text
 */
export function compileRecipe(text: string): Recipe {
  const parsed = parseRecipeText(text);
  const recipe = parsed.recipe.recipe;
  try {
    return compileParsed(text, parsed);
  } catch (error) {
    if (error instanceof RangeError) throw new FormatError({ ...faultOf(error), code: 'recipe-invalid', recipe });
    throw error instanceof FormatError ? error.with({ recipe }) : error;
  }
}

function compileParsed(text: string, parsed: ParsedText): Recipe {
  const { recipe } = parsed;
  const shapes = new Map<string, Open<Shape>>();
  for (const name of Object.keys(recipe.shapes)) shapes.set(name, emptyShape(name, parsed.lineOf(['shapes', name])));
  const slots = compileSlots(parsed);
  const setting: Setting = {
    parsed,
    shapes,
    slots,
    own: ownSteps(parsed),
    names: globalNames(parsed, shapes, slots),
    numbers: typeof recipe.numbers === 'string' ? recipe.numbers : 'stored',
  };
  for (const shape of shapes.values()) outlineShape(shape, setting);
  const bindings = compileBindings(setting);
  for (const [shape, names] of namesByShape(parsed, shapes, bindings, setting)) compileShape(shape, setting, names);
  measureShapes(shapes);

  const volumes = compileVolumes(parsed);
  const regions = recipe.regions.map((region, index) => compileRegion(region, index, volumes, setting));
  const entries = compileEntries(setting, bindings);
  const holders = regions.filter((region) => region.holds === 'entries');
  const solid = holders.find((region) => region.through.length > 0);
  if (solid !== undefined) checkSolid(solid, holders.length - 1, entries.data !== undefined);
  const dataRegions = solid === undefined ? holders : [];
  if (holders.length === 0 && entries.data === undefined) {
    throw invalid(parsed.lineOf(['regions']), 'no region holds the entries', '{ region: data, holds: entries }');
  }
  const endianness = endiannessOf(parsed, setting);
  for (const shape of shapes.values())
    for (const field of shape.fields) field.asked ||= setting.names.askedNames.has(field.name);
  return {
    id: recipe.recipe,
    title: recipe.title,
    revision: recipe.revision,
    collection: recipe.collection,
    text,
    presents: recipe.presents,
    picture: compilePicture(regions, setting),
    mesh: compileMesh(regions, setting),
    clip: compileClip(regions, setting),
    records: compileRecords(setting),
    font: compileFont(setting),
    sound: compileSound(regions, setting),
    match: compileMatch(parsed),
    isFor: compilePaths(parsed),
    needs: new Map([...slots].map(([name, slot]) => [name, slot.kind])),
    slots,
    volumes,
    wrapped: compileSteps(recipe.wrapped ?? [], (i) => parsed.lineOf(['wrapped', i]), setting.names, setting),
    shapes: [...shapes.values()],
    regions,
    readingOrder: readingOrder(regions, endianness),
    entries,
    dataRegions,
    solid,
    duplicates: recipe.duplicates ?? 'keep',
    alone: recipe.alone,
    last: recipe.last ?? false,
    strict: recipe.strict ?? false,
    layouts: layoutsOf(parsed, entries, holders),
    hasOwnSteps: setting.own.size > 0 || setting.names.hashes.size > 0,
    endianness,
    build:
      recipe.build === undefined ? undefined : compileFormula(recipe.build, parsed.lineOf(['build']), setting.names),
  };
}

function compileSlots(parsed: ParsedText): Map<string, KeySlot> {
  const slots = new Map<string, KeySlot>();
  for (const [slot, kind] of Object.entries(parsed.recipe.needs ?? {})) {
    const counted = /^bytes\((\d+)\)$/.exec(kind);
    const bytes =
      counted !== null ? Number(counted[1]) : kind === 'text' ? 0 : (KEY_KINDS as Record<string, number>)[kind];
    if (bytes === undefined) {
      throw invalid(
        parsed.lineOf(['needs', slot]),
        `there is no kind of key ${kind}`,
        `one of ${Object.keys(KEY_KINDS).join(', ')}, bytes(n), text`,
      );
    }
    slots.set(slot, { kind, bytes });
  }
  return slots;
}

function ownHashes(parsed: ParsedText): Names['hashes'] {
  const hashes = new Map<string, { key: string; takes: readonly string[] }>();
  for (const [name, text] of Object.entries(parsed.recipe.hashes ?? {})) {
    if (hasherNames().includes(name))
      throw invalid(parsed.lineOf(['hashes', name]), `there is a hash ${name} already`, 'another name');
    const { takes = [], hash } = typeof text === 'string' ? { hash: text } : text;
    hashes.set(name, { key: ownHash(name, hash), takes });
  }
  return hashes;
}

function ownSteps(parsed: ParsedText): Map<string, ReturnType<typeof ownCodec>> {
  return new Map(
    Object.entries(parsed.recipe.steps ?? {}).map(([name, step]) => [
      name,
      ownCodec({ name, takes: step.takes ?? [], shared: step.shared, decode: step.decode, encode: step.encode }),
    ]),
  );
}

function globalNames(
  parsed: ParsedText,
  shapes: ReadonlyMap<string, Shape>,
  slots: ReadonlyMap<string, KeySlot>,
): Names {
  const { recipe } = parsed;
  const regions = new Map<string, { index: number; type: FieldType | undefined }>();
  for (const [index, region] of recipe.regions.entries()) {
    const line = parsed.lineOf(['regions', index]);
    if (regions.has(region.region)) throw invalid(line, `region ${region.region} is described twice`);
    const noFields = region.holds === 'entries' || region.holds === 'bytes';
    regions.set(region.region, {
      index,
      type: noFields ? undefined : inLine(line, () => kindType(region.holds, shapes)),
    });
  }
  const lets = new Map<string, Expression>();
  for (const [name, formula] of Object.entries(recipe.let ?? {}))
    lets.set(
      name,
      inLine(parsed.lineOf(['let', name]), () => parseExpression(formula)),
    );
  for (const known of Object.values(recipe.variants?.known ?? {})) lets.set(known, { kind: 'text', value: known });
  if (recipe.variants !== undefined) lets.set('variant', variantExpression(parsed));
  const unlocked = new Set(recipe.regions.flatMap((region, index) => (region.through === undefined ? [] : [index])));
  const [main] = Object.keys(recipe.volumes ?? { main: undefined });
  const entryRegions = new Map(
    recipe.regions.flatMap(({ holds, through, volume }, index) =>
      holds === 'entries' && through === undefined ? [[index, volume ?? main!] as const] : [],
    ),
  );
  return {
    unlocked,
    entryRegions,
    volumeSets: new Map(
      Object.entries(recipe.volumes ?? { main: { file: '{name}' } }).map(([name, { file }]) => [
        name,
        isNumbered(file),
      ]),
    ),
    rows: [],
    regions,
    slots: new Set(slots.keys()),
    hashes: ownHashes(parsed),
    askedNames: new Set(),
    lets,
    entry: false,
    block: false,
    folder: false,
  };
}

/** `variants: { from: head.version, known: { 2: early } }` as nested conditions. */
function variantExpression(parsed: ParsedText): Expression {
  const { from, known } = parsed.recipe.variants!;
  const of = inLine(parsed.lineOf(['variants', 'from']), () => parseExpression(from));
  return Object.entries(known).reduceRight<Expression>(
    (otherwise, [key, name]) => {
      const right: Expression = /^(0x[0-9a-f]+|\d+)$/i.test(key)
        ? { kind: 'number', value: Number(key) }
        : { kind: 'text', value: key };
      const test: Expression = { kind: 'binary', operator: '==', left: of, right };
      return { kind: 'call', name: 'if', args: [test, { kind: 'text', value: name }, otherwise], named: {} };
    },
    { kind: 'text', value: 'unknown' },
  );
}

function endiannessOf(parsed: ParsedText, setting: Setting): Formula | undefined {
  const { numbers } = parsed.recipe;
  if (typeof numbers === 'string') return undefined;
  const line = parsed.lineOf(['numbers']);
  const of = compileFormula(numbers.from, line, setting.names);
  const little = numbers.little ?? 0;
  const big = numbers.big ?? 1;
  const wanted = (value: unknown) => String(typeof value === 'boolean' ? Number(value) : value);
  return {
    ...of,
    evaluate: (scope) => {
      const value = of.evaluate(scope);
      if (wanted(value) === wanted(little)) return 'little';
      if (wanted(value) === wanted(big)) return 'big';
      throw new FormatError({
        code: 'must-differs',
        line,
        what: 'the file does not say its endianness',
        expected: `${little} for little, ${big} for big`,
        found: showValue(value),
      });
    },
  };
}
