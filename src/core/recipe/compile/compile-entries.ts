/** The `entries` part: where each entry's path, bytes and packing are stored. */
import { compileFormula } from '../formula/compile-formula';
import { noUses, type Names } from '../formula/names';
import { parseExpression, type Expression } from '../language/expression';
import type { TextPath } from '../language/yaml-text';
import type { Binding, BlocksRule, ContentRule, EntriesRule, FoldersRule, Formula, Shape } from '../model';
import { compileMade } from './compile-made';
import { compileEntrySound } from './compile-sound';
import { compileSteps } from './compile-step';
import { formulasOf, invalid, isNumbered, type Setting } from './setting';
import { methodPacking, stepPacking } from './entry-packing';
import { compileWords, compileLanguages, compileFilm } from './compile-subjects';
import type { Bindings } from './compile-bindings';

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
