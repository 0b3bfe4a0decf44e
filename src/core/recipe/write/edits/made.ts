/** Entries whose content follows from the others: written again whenever anything else is. */
import { bufferSource, collect, readChunks, type ByteSource } from '../../../bytes';
import { createHasher } from '../../../codecs';
import { FormatError, throwIfStopped } from '../../../faults';
import { compareValues } from '../../formula/arithmetic';
import { scopeOf, truthy, type EntryFacts, type Value } from '../../formula/value';
import { showValue } from '../../formula/show-value';
import type { ContentHash, Formula, Layout, MadeRule, Recipe } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import { readEntry } from '../../read/entry-bytes';
import { onlyPath, pathHashing, withoutFile } from '../../read/path-hashes';
import { NO_EDITS, type Edits } from './edits';

/** An entry of the new file, as the content of another one sees it. */
interface SeenEntry {
  readonly path: string;
  readonly facts: EntryFacts;
  /** Its plain bytes. */
  bytes(): AsyncIterable<Uint8Array>;
}

/** The index of an entry whose content follows from the others; -1 when the archive has none of this path. */
export function madeEntry({ entries }: OpenedArchive, { path }: MadeRule): number {
  for (let entry = 0; entry < entries.count; entry++)
    if (!entries.isDeleted(entry) && entries.path(entry) === path) return entry;
  return -1;
}

/** All of them that the archive has. */
export function madeEntries(archive: OpenedArchive): ReadonlySet<number> {
  return new Set(archive.recipe.entries.made.map((rule) => madeEntry(archive, rule)).filter((entry) => entry >= 0));
}

/** What the content of such an entry follows from. */
export interface MadeSetting {
  readonly recipe: Recipe;
  readonly archive: OpenedArchive | undefined;
  readonly signal: AbortSignal | undefined;
}

/**
 * The edits with the content of those entries.
 *
 * @param known the paths in the order of their rows; that of the edits without it
 * @throws FormatError `conflict` when someone gave one other bytes
 */
export async function withMade(
  setting: MadeSetting,
  edits: Edits,
  layout: Layout,
  known?: readonly string[],
): Promise<Edits> {
  const { recipe, archive } = setting;
  const { made } = recipe.entries;
  if (made.length === 0 || layout === 'patch') return edits;
  if (archive !== undefined && edits.add.length + edits.replace.size + edits.remove.size === 0) return edits;
  const replace = new Map(edits.replace);
  const add = [...edits.add];
  for (const rule of made) {
    const entry = archive === undefined ? -1 : madeEntry(archive, rule);
    const bytes = bufferSource(await madeBytes(setting, edits, rule, known), rule.path);
    const added = add.findIndex(({ path }) => path === rule.path);
    const given = added >= 0 ? add[added]!.bytes : edits.replace.get(entry);
    if (given !== undefined && !(await isSame(given, bytes))) throw other(setting, rule);
    if (added >= 0) add[added] = { ...add[added]!, bytes };
    else if (entry >= 0 && !edits.remove.has(entry)) replace.set(entry, bytes);
    else if (archive === undefined) add.push({ path: rule.path, bytes });
  }
  return { ...edits, replace, add };
}

/** What an entry has to hold when nothing is changed. */
export function madeContent(
  archive: OpenedArchive,
  rule: MadeRule,
  signal: AbortSignal | undefined,
): Promise<Uint8Array> {
  return madeBytes({ recipe: archive.recipe, archive, signal }, NO_EDITS, rule);
}

async function madeBytes(
  setting: MadeSetting,
  edits: Edits,
  rule: MadeRule,
  known?: readonly string[],
): Promise<Uint8Array> {
  const { recipe, signal } = setting;
  const evaluate = (formula: Formula, facts: EntryFacts | undefined): Value => {
    const scope = scopeOf(withoutFile(formula.line));
    scope.entry = facts;
    return formula.evaluate(scope);
  };
  const isMade = new Set(recipe.entries.made.map(({ path }) => path));
  const place = known === undefined ? undefined : new Map(known.map((path, i) => [path, i]));
  const listed: { value: Value; key: Value }[] = [];
  for (const entry of seenEntries(setting, edits)) {
    throwIfStopped(signal);
    // What it holds follows from this one, or this one from it.
    if (isMade.has(entry.path) && (rule.looksInside || rule.only === undefined)) continue;
    const facts = rule.looksInside ? await hashed(entry, rule, signal) : entry.facts;
    if (rule.only !== undefined && !truthy(evaluate(rule.only, facts))) continue;
    listed.push({
      value: evaluate(rule.each, facts),
      key: rule.sort === undefined ? place?.get(entry.path) : evaluate(rule.sort, facts),
    });
  }
  if (rule.sort !== undefined || place !== undefined) listed.sort((a, b) => compareValues(a.key, b.key));
  const head = rule.first === undefined ? [] : [evaluate(rule.first, undefined)];
  return new Uint8Array(
    Buffer.concat([...head, ...listed.map(({ value }) => value)].map((value) => asBytes(value, rule))),
  );
}

function asBytes(value: Value, { path, line }: MadeRule): Uint8Array {
  if (value instanceof Uint8Array) return value;
  if (typeof value === 'string') return new TextEncoder().encode(value);
  throw new FormatError({
    code: 'recipe-invalid',
    line,
    entry: path,
    what: 'the content of an entry is made of texts and bytes',
    found: showValue(value),
    hint: 'Use decimal(…), hexadecimal(…) or to-bytes(…) for numbers.',
  });
}

function* seenEntries({ archive, recipe }: MadeSetting, { add, replace, remove }: Edits): Generator<SeenEntry> {
  const { hashing } = recipe.entries;
  const hashOf = archive?.hashes?.hashOf ?? (hashing === undefined ? undefined : pathHashing(hashing));
  const given = (path: string, bytes: ByteSource, base: EntryFacts): SeenEntry => ({
    path,
    facts: { ...base, size: bytes.size },
    bytes: () => readChunks(bytes),
  });
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (remove.has(entry) || archive!.entries.isDeleted(entry)) continue;
    const path = archive!.entries.path(entry);
    const bytes = replace.get(entry);
    const facts = archive!.entries.facts(entry);
    const hash = archive!.entries.hash(entry);
    if (bytes !== undefined) yield given(path, bytes, { ...onlyPath(path), hash });
    else yield { path, facts, bytes: () => readEntry(archive!, entry, { verify: false }) };
  }
  for (const { path, bytes } of add) yield given(path, bytes, { ...onlyPath(path), hash: hashOf?.(path) });
}

/** The facts with all hashes over its bytes that the rule asks for, and with its size. */
async function hashed(entry: SeenEntry, rule: MadeRule, signal: AbortSignal | undefined): Promise<EntryFacts> {
  const { path, size, hash, time } = entry.facts;
  const wanted = new Map<string, ContentHash>();
  for (const formula of [rule.each, rule.only, rule.sort])
    for (const one of formula?.uses.content ?? []) wanted.set(one.name, one);
  if (wanted.size === 0 && !Number.isNaN(size)) return entry.facts;
  const machines = [...wanted.values()].map(({ name, hasher }) => ({
    name,
    hasher: createHasher(hasher(scopeOf(withoutFile(rule.line)))),
  }));
  let total = 0;
  for await (const chunk of entry.bytes()) {
    throwIfStopped(signal);
    total += chunk.length;
    for (const { hasher } of machines) hasher.update(chunk);
  }
  const values = new Map(machines.map(({ name, hasher }) => [name, hasher.digest()]));
  return { ...onlyPath(path), size: total, hash, time, content: (_, name) => values.get(name) };
}

async function isSame(a: ByteSource, b: ByteSource): Promise<boolean> {
  return a.size === b.size && Buffer.compare(await collect(readChunks(a)), await collect(readChunks(b))) === 0;
}

function other({ recipe }: MadeSetting, { path, line }: MadeRule): FormatError {
  return new FormatError({
    code: 'conflict',
    recipe: recipe.id,
    line,
    entry: path,
    what: 'the content of this entry follows from the others, and it was given other bytes',
    hint: 'Leave it out of the changes: it is written anew with them.',
  });
}
