/** The `entries` part: where each entry's path, bytes and packing are stored. */
import { compileFormula } from '../formula/compile-formula';
import { noUses, type Names } from '../formula/names';
import { truthy, type Scope } from '../formula/value';
import { textCodec } from '../kinds/text-codec';
import { parseExpression, type Expression } from '../language/expression';
import type { TextPath } from '../language/yaml-text';
import type {
  Binding,
  BlocksRule,
  ContentRule,
  EntriesRule,
  FieldType,
  FilmRule,
  FoldersRule,
  Formula,
  Method,
  Shape,
  LanguagesRule,
  WordsRule,
  Step,
} from '../model';
import { compileMade } from './compile-made';
import { compileEntrySound } from './compile-sound';
import { compileSteps } from './compile-step';
import { formulasOf, invalid, isNumbered, type Setting } from './setting';

/** How many `when` steps a chain can have: the set of those that held is kept as bits of a number. */
const MAX_STEPS = 16;

/** All tables that `entries` binds. */
export interface Bindings {
  readonly each: Binding;
  readonly beside: readonly Binding[];
  readonly folders: Binding | undefined;
  readonly blocks: Binding | undefined;
}

export function compileBindings(setting: Setting): Bindings {
  const { entries } = setting.parsed.recipe;
  const path: TextPath = ['entries'];
  return {
    each: bindingOf(entries.each, [...path, 'each'], setting),
    beside: (entries.beside ?? []).map((text, i) => {
      const at = [...path, 'beside', i];
      const [, where, by] = /^(.*?)(?:\s+by\s+(.+))?$/s.exec(text)!;
      const binding = bindingOf(where!, at, setting);
      if (binding.anywhere)
        throw invalid(
          setting.parsed.lineOf([...path, 'beside', i]),
          'a table beside the rows is a list',
          'NAME in region.field',
        );
      if (by === undefined) return binding;
      const names = { ...setting.names, rows: [{ name: binding.name, shape: binding.shape }] };
      return { ...binding, by: compileFormula(by, setting.parsed.lineOf(at), names) };
    }),
    folders:
      entries.folders === undefined
        ? undefined
        : bindingOf(entries.folders.each, [...path, 'folders', 'each'], setting),
    blocks:
      entries.blocks?.each === undefined
        ? undefined
        : bindingOf(entries.blocks.each, [...path, 'blocks', 'each'], setting),
  };
}

/** `row in index.rows`: the items of that list; `file in tree`, where `file` is a shape: all of them below. */
export function bindingOf(text: string, textPath: TextPath, setting: Setting): Binding {
  const { parsed, shapes, names } = setting;
  const line = parsed.lineOf(textPath);
  const match = /^\s*([A-Za-z_][\w-]*)\s+in\s+(\S+)\s*$/.exec(text);
  if (match === null)
    throw invalid(line, `"${text}" does not say where the rows are`, 'NAME in region, or NAME in region.field');
  const [, name, path] = match as unknown as [string, string, string];
  const [regionName, ...fieldNames] = path.split('.');
  const region = names.regions.get(regionName!);
  if (region?.type === undefined)
    throw invalid(
      line,
      `no region with rows is called ${regionName}`,
      `one of ${[...names.regions.keys()].join(', ')}`,
    );
  let type: FieldType = region.type;
  const fieldPath: number[] = [];
  for (const fieldName of fieldNames) {
    if (type.kind !== 'shape') throw invalid(line, `.${fieldName} needs a shape before the dot`);
    const index: number = type.shape.indexOf(fieldName);
    if (index < 0) throw invalid(line, `shape ${type.shape.name} has no field ${fieldName}`);
    fieldPath.push(index);
    type = type.shape.fields[index]!.kind.type;
  }
  const list = type.kind === 'list' && type.of.kind === 'shape' ? type.of.shape : undefined;
  const named = shapes.get(name);
  // A name that is a shape other than the list's means its instances at any depth.
  if (named !== undefined && (list === undefined || (named !== list && list.name !== name) || named.recursive))
    return { name, region: region.index, fieldPath, shape: named, anywhere: true };
  if (list === undefined)
    throw invalid(
      line,
      `${path} is not a list of shapes`,
      'shape[count], or the name of a shape inside it before `in`',
    );
  return { name, region: region.index, fieldPath, shape: list, anywhere: list.recursive };
}

export function compileEntries(setting: Setting, bindings: Bindings): EntriesRule {
  const { parsed, names: known, shapes } = setting;
  const text = parsed.recipe.entries;
  const line = parsed.lineOf(['entries']);
  const wrap = text.wrap === undefined ? undefined : shapes.get(text.wrap);
  if (text.wrap !== undefined && wrap === undefined)
    throw invalid(
      parsed.lineOf(['entries', 'wrap']),
      `there is no shape ${text.wrap}`,
      `one of ${[...shapes.keys()].join(', ')}`,
    );
  const rows = [bindings.each, ...bindings.beside].map(({ name, shape }) => ({ name, shape }));
  const names: Names = { ...known, rows, entry: true, own: wrap, folder: bindings.folders !== undefined };
  const formula = formulasOf(text, ['entries'], setting, names);
  const path = formula('path');
  const hash = formula('hash');
  if (hash !== undefined && text.hashing === undefined)
    throw invalid(
      parsed.lineOf(['entries', 'hash']),
      'hash needs hashing: how a path becomes a hash',
      'hashing: fnv1a-64(lower(entry.path))',
    );
  const wrapData = wrap === undefined ? -1 : wrap.fields.findIndex((field) => field.kind.type.kind === 'data');
  if (wrap !== undefined && wrapData < 0)
    throw invalid(
      wrap.line,
      `shape ${wrap.name} wraps entries and has no field for their bytes`,
      '{ field: body, as: data(n) }',
    );
  const at = formula('at');
  // Where a row says where its bytes are, and a region holds some, a field of them is one of two places they may have.
  const isElsewhere = at !== undefined && parsed.recipe.regions.some(({ holds }) => holds === 'entries');
  const data = formula('data') ?? (isElsewhere ? undefined : dataField(bindings.each.shape, bindings.each.name));
  if (data === undefined && at === undefined)
    throw invalid(
      line,
      'entries do not say where their bytes are',
      'at: and stored:, or a field of kind data(n) in their rows',
    );
  if (data === undefined && wrap === undefined && text.stored === undefined && text.blocks === undefined)
    throw invalid(line, 'entries do not say how many bytes they have', 'stored: FORMULA');
  if (text.methods !== undefined && text.through !== undefined)
    throw invalid(line, 'entries have either through or method with methods, not both');
  const packing =
    text.methods === undefined ? stepPacking(setting, names) : methodPacking(setting, names, formula('method'), line);
  const volumeNames = new Map(
    Object.entries(parsed.recipe.volumes ?? {}).map(([name, volume]) => [name, isNumbered(volume.file)]),
  );
  return {
    line,
    ...bindings,
    only: formula('only'),
    path,
    hash,
    hashing: formula('hashing'),
    id: formula('id'),
    volume:
      text.volume === undefined
        ? undefined
        : formulasOf(text, ['entries'], setting, { ...names, volumes: volumeNames })('volume'),
    at,
    stored: formula('stored'),
    size: formula('size'),
    time: formula('time'),
    together: compileTogether(setting, names),
    deleted: formula('deleted'),
    directory: formula('directory'),
    prefixed: (text.prefixed ?? []).map((one, i) =>
      compileFormula(one, parsed.lineOf(['entries', 'prefixed', i]), names),
    ),
    link: compileLink(setting, names),
    made: compileMade(setting),
    names: text.names === undefined ? undefined : { path: text.names.in, ends: text.names.ends ?? '\n' },
    unique: (text.unique ?? []).map((key) =>
      compileFormula(key === 'path' ? 'entry.path' : key, parsed.lineOf(['entries', 'unique']), names),
    ),
    checks: (text.check ?? []).map(({ that, say }, i) => ({
      that: compileFormula(that, parsed.lineOf(['entries', 'check', i, 'that']), names),
      say,
    })),
    content: compileContent(setting, names),
    data,
    wrap,
    wrapData,
    folder: formula('folder'),
    folders: compileFolders(setting, bindings.folders),
    blocks: compileBlocks(setting, names, bindings.blocks),
    sound: compileEntrySound(setting, names),
    words: compileWords(setting, names),
    languages: compileLanguages(setting, names),
    film: compileFilm(setting, names),
    ...packing,
  };
}

function compileLink(setting: Setting, names: Names): EntriesRule['link'] {
  if (setting.parsed.recipe.entries.link === undefined) return undefined;
  const formula = formulasOf(setting.parsed.recipe.entries.link, ['entries', 'link'], setting, names);
  return { to: formula('to')!, relative: formula('relative') };
}

function compileTogether(setting: Setting, names: Names): EntriesRule['together'] {
  const text = setting.parsed.recipe.entries.together;
  if (text === undefined) return undefined;
  const formula = formulasOf(text, ['entries', 'together'], setting, names);
  return { group: formula('group')!, along: formula('along')! };
}

function compileContent({ parsed, shapes }: Setting, names: Names): ContentRule[] {
  return (parsed.recipe.entries.content ?? []).map(({ when, holds }, i) => {
    const path: TextPath = ['entries', 'content', i];
    const line = parsed.lineOf([...path, 'holds']);
    const shape = shapes.get(holds);
    if (shape === undefined)
      throw invalid(line, `there is no shape ${holds}`, `one of ${[...shapes.keys()].join(', ')}`);
    if (shape.flows)
      throw invalid(line, `shape ${holds} holds the bytes of entries itself`, 'bytes(n) in place of data(n)');
    return {
      line,
      when: when === undefined ? undefined : compileFormula(when, parsed.lineOf([...path, 'when']), names),
      shape,
    };
  });
}

/** The only field of kind `data` in the rows, which needs no naming. */
function dataField(shape: Shape, binding: string): Formula | undefined {
  const index = shape.fields.findIndex((field) => field.kind.type.kind === 'data');
  if (index < 0) return undefined;
  const field = shape.fields[index]!;
  return {
    text: `${binding}.${field.name}`,
    line: field.line,
    uses: noUses(),
    evaluate: (scope) => scope.rows[0]?.get(index),
  };
}

function compileFolders(setting: Setting, each: Binding | undefined): FoldersRule | undefined {
  const text = setting.parsed.recipe.entries.folders;
  if (text === undefined || each === undefined) return undefined;
  const path: TextPath = ['entries', 'folders'];
  const names: Names = { ...setting.names, rows: [{ name: each.name, shape: each.shape }], folder: true };
  const formula = formulasOf(text, path, setting, names);
  const line = setting.parsed.lineOf(path);
  if (text.path === undefined && text.name === undefined)
    throw invalid(line, 'folders have neither a path nor a name', 'name: folder.name, or path: folder.path');
  const { folder } = setting.parsed.recipe.entries;
  const top = text.top ?? (folder !== undefined && mayGiveNone(parseExpression(folder)) ? 'none' : undefined);
  return { line, each, path: formula('path'), name: formula('name'), parent: formula('parent'), top };
}

/** True for a formula that says in words of its own that there is no folder: with a number below zero, or with nothing. */
function mayGiveNone(formula: Expression): boolean {
  switch (formula.kind) {
    case 'unary':
      return formula.operator === '-';
    case 'name':
      return formula.name === 'nothing';
    case 'call':
      return formula.args.some(mayGiveNone);
    default:
      return false;
  }
}

function compileBlocks(setting: Setting, names: Names, each: Binding | undefined): BlocksRule | undefined {
  const text = setting.parsed.recipe.entries.blocks;
  if (text === undefined) return undefined;
  const path: TextPath = ['entries', 'blocks'];
  const rows = each === undefined ? names.rows : [...names.rows, { name: each.name, shape: each.shape }];
  const inside: Names = { ...names, rows, block: true };
  const formula = formulasOf(text, path, setting, inside);
  const first = formula('first');
  const number = formula('number');
  if (each !== undefined && first === undefined && number === undefined)
    throw invalid(
      setting.parsed.lineOf(path),
      'a table of blocks needs first: the number of the entry’s first block',
      'first: row.firstBlock',
    );
  if (number !== undefined && (each === undefined || first !== undefined || text.at === undefined))
    throw invalid(
      setting.parsed.lineOf([...path, 'number']),
      'numbers of blocks need each: and at:, and no first:',
      'each: part in parts, number: row.numbers[block.index], at: part.at',
    );
  if (text.next !== undefined && (first === undefined || each !== undefined || text.at === undefined))
    throw invalid(
      setting.parsed.lineOf([...path, 'next']),
      'chained blocks need first: and at:, and no table of their own',
      'first: row.first, next: table[block.number], at: start(data) + block.number * 512',
    );
  const { entries } = setting.parsed.recipe;
  if (text.at !== undefined && each !== undefined && entries.stored === undefined)
    throw invalid(
      setting.parsed.lineOf([...path, 'at']),
      'blocks in a table, each at its own place, need the stored length',
      'stored: FORMULA in entries',
    );
  return {
    line: setting.parsed.lineOf(path),
    count: formula('count'),
    at: formula('at'),
    next: formula('next'),
    size: formula('size')!,
    stored: formula('stored')!,
    through: compileSteps(text.through ?? [], (i) => setting.parsed.lineOf([...path, 'through', i]), inside, setting),
    align: text.align ?? 1,
    each,
    first,
    number,
  };
}

function compileWords(setting: Setting, names: Names): WordsRule | undefined {
  const text = setting.parsed.recipe.entries.words;
  if (text === undefined) return undefined;
  const path: TextPath = ['entries', 'words'];
  const formula = formulasOf(text, path, setting, names);
  const line = setting.parsed.lineOf(path);
  if (text.encoding === 'utf-16' && setting.numbers === 'stored')
    throw invalid(line, 'the byte order of utf-16 depends on the file', 'utf-16le or utf-16be');
  return {
    line,
    locale: formula('locale')!,
    key: formula('key'),
    most: formula('most'),
    text: textCodec(text.encoding ?? 'utf-8', setting.numbers !== 'big'),
  };
}

function compileLanguages(setting: Setting, names: Names): LanguagesRule | undefined {
  const text = setting.parsed.recipe.entries.languages;
  if (text === undefined) return undefined;
  return { code: formulasOf(text, ['entries', 'languages'], setting, names)('code')! };
}

function compileFilm(setting: Setting, names: Names): FilmRule | undefined {
  const text = setting.parsed.recipe.entries.film;
  if (text === undefined) return undefined;
  const path: TextPath = ['entries', 'film'];
  const formula = formulasOf(text, path, setting, names);
  const streamsPath: TextPath = [...path, 'streams'];
  const each = bindingOf(text.streams.each, [...streamsPath, 'each'], setting);
  const of = formulasOf(text.streams, streamsPath, setting, {
    ...setting.names,
    rows: [{ name: each.name, shape: each.shape }],
  });
  return {
    line: setting.parsed.lineOf(path),
    stream: formula('stream')!,
    time: formula('time')!,
    shownFor: formula('stands'),
    streams: {
      each,
      is: of('is')!,
      codec: of('codec')!,
      locale: of('locale'),
      rate: of('rate'),
      channels: of('channels'),
      block: of('block'),
      width: of('width'),
      height: of('height'),
      folder: of('folder')!,
      ending: of('ending')!,
    },
    digits: text.digits ?? 6,
  };
}

type Packing = Pick<EntriesRule, 'methodField' | 'methodOf' | 'stepsOf' | 'rawOf' | 'methods' | 'hasOneMethod'>;

/** The steps of a chain that are no compression, as text. */
function ciphersOf(steps: readonly Step[]): string {
  return steps
    .filter(({ codec }) => codec.family !== 'compression')
    .map(({ text }) => text)
    .join();
}

/** `method: row.how` with `methods: { 0: [], 1: zlib }`: a field names the chain. */
function methodPacking(setting: Setting, names: Names, method: Formula | undefined, line: number): Packing {
  const table = setting.parsed.recipe.entries.methods!;
  if (method === undefined) throw invalid(line, 'methods need method: the field that chooses one', 'method: row.how');
  const chains = new Map<string, readonly Step[]>();
  for (const [key, steps] of Object.entries(table)) {
    const stepLine = setting.parsed.lineOf(['entries', 'methods', key]);
    chains.set(
      key,
      compileSteps(steps, () => stepLine, names, setting),
    );
  }
  const asMethod = (key: string): Method => (/^\d+$/.test(key) ? Number(key) : key);
  return {
    methodOf: (scope) => method.evaluate(scope),
    methodField: method.rowField,
    stepsOf: (value) => chains.get(String(typeof value === 'boolean' ? Number(value) : value)),
    rawOf: (value) => {
      const ciphers = ciphersOf(chains.get(String(value)) ?? []);
      return [...chains]
        .filter(([, steps]) => steps.map(({ text }) => text).join() === ciphers)
        .map(([key]) => asMethod(key));
    },
    methods: [...chains.keys()].map(asMethod),
    hasOneMethod: false,
  };
}

/** `through: [{ when: …, use: zlib }]`: each step has its own condition. */
function stepPacking(setting: Setting, names: Names): Packing {
  const { parsed } = setting;
  const texts = parsed.recipe.entries.through ?? [];
  if (texts.length > MAX_STEPS)
    throw invalid(parsed.lineOf(['entries', 'through']), `a chain has at most ${MAX_STEPS} steps`);
  const steps = compileSteps(texts, (i) => parsed.lineOf(['entries', 'through', i]), names, setting);
  const methodOf = (scope: Scope) =>
    steps.reduce(
      (mask, { when }, i) => (when === undefined || truthy(when.evaluate(scope)) ? mask | (1 << i) : mask),
      0,
    );
  // Conditions are mostly about compression: a chain without it still has its ciphers.
  const compressions = steps.reduce(
    (mask, { when, codec }, i) => (when !== undefined && codec.family === 'compression' ? mask | (1 << i) : mask),
    0,
  );
  const all = (1 << steps.length) - 1;
  return {
    methodOf,
    methodField: undefined,
    stepsOf: (mask) => steps.filter((_, i) => (Number(mask) & (1 << i)) !== 0),
    rawOf: (mask) => ((Number(mask) & compressions) === 0 ? [] : [Number(mask) & ~compressions]),
    methods: [all],
    hasOneMethod: steps.every(({ when }) => when === undefined),
  };
}
