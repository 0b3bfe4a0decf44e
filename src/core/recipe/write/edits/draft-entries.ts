/** The entries of a file in the making: what stays, what is packed again, what only marks that something is gone. */
import { bufferSource } from '../../../bytes';
import { FaultError, FormatError, throwIfStopped } from '../../../faults';
import type { OpenedArchive } from '../../read/opened-archive';
import { openEntry, readEntry } from '../../read/entry-bytes';
import { followLink } from '../../read/links';
import type { RowCursor } from '../../read/table';
import type { DraftSetting } from '../model/draft';
import type { NewBytes } from '../model/new-bytes';
import { contentHashes } from '../packing/content-hashes';
import { packEntry } from '../packing/pack-entry';
import { fileScope, type PackSetting } from '../packing/packer';
import { movedEntry, type ResealedEntries } from '../packing/reseal';
import { rowsAreFixed } from './carriers';
import type { Layout } from '../../model';
import type { Edits } from './edits';
import { checkPathsAreFree } from './free-paths';

/**
 * Leaves out what changes nothing: entries that are given the bytes they have.
 *
 * @returns the edits that are left
 */
export async function realEdits({ archive, signal }: PackSetting, edits: Edits, layout: Layout): Promise<Edits> {
  if (archive !== undefined) {
    refuseDirectories(archive, edits);
    refuseLinks(archive, edits);
  }
  if (archive === undefined || layout === 'patch' || edits.replace.size === 0) return edits;
  const replace = new Map(edits.replace);
  for (const [entry, bytes] of edits.replace) {
    if (edits.remove.has(entry) || archive.entries.isDeleted(entry)) continue;
    const size = archive.entries.size(entry);
    if (!Number.isNaN(size) && size !== bytes.size) continue;
    if (await isSame(readEntry(archive, entry, { signal }), bytes)) replace.delete(entry);
  }
  return { ...edits, replace };
}

/** @throws FormatError `cannot-add` when a folder would get bytes */
function refuseDirectories({ entries, recipe, source }: OpenedArchive, { replace }: Edits): void {
  if (recipe.entries.directory === undefined) return;
  for (const [entry, bytes] of replace)
    if (bytes.size > 0 && entries.isDirectory(entry))
      throw new FormatError({
        code: 'cannot-add',
        what: 'a folder has no bytes to be replaced',
        file: source.name,
        recipe: recipe.id,
        entry: entries.path(entry),
        hint: 'Replace an entry in the folder, or add one.',
      });
}

/**
 * @throws FormatError `conflict` when a link would get bytes of its own, or an entry is removed to which a link leads
 */
function refuseLinks(archive: OpenedArchive, { replace, remove }: Edits): void {
  const { entries, recipe, source } = archive;
  if (recipe.entries.link === undefined || (replace.size === 0 && remove.size === 0)) return;
  for (let entry = 0; entry < entries.count; entry++) {
    const to = entries.link(entry);
    if (to === undefined || remove.has(entry)) continue;
    const place = { file: source.name, recipe: recipe.id };
    if (replace.has(entry))
      throw new FormatError({
        ...{ code: 'conflict', what: 'a link has no bytes to be replaced', ...place, entry: entries.path(entry) },
        hint: `Replace ${to}, which it leads to, or remove the link and add a file.`,
      });
    const target = followLink(archive, entry);
    if (target !== undefined && remove.has(target))
      throw new FormatError({
        ...{
          code: 'conflict',
          what: 'a link leads to an entry that is removed',
          ...place,
          entry: entries.path(target),
        },
        found: `the link ${entries.path(entry)}`,
        hint: 'Remove the link too.',
      });
  }
}

/**
 * The bytes of an entry whose row is damaged are unknown, so nothing around it may move.
 *
 * @param which `incomplete` for those alone that cannot even be written as they were
 * @throws FormatError naming the first such entry that would stay
 */
export function refuseDamagedRows(
  { archive, recipe }: PackSetting,
  { remove }: Edits,
  which: 'all' | 'incomplete' = 'all',
): void {
  if (archive === undefined || archive.entries.damaged === 0) return;
  const { entries } = archive;
  for (let entry = 0; entry < entries.count; entry++) {
    const damage = remove.has(entry) ? undefined : entries.damage(entry);
    if (damage === undefined || (which === 'incomplete' && !entries.isIncomplete(entry))) continue;
    throw new FormatError({
      recipe: recipe.id,
      ...damage,
      entry: entries.path(entry),
      hint: 'Its row is damaged: remove the entry in the same step, or start from a whole copy of the archive.',
    });
  }
}

/** False also where the old bytes cannot be read. */
async function isSame(before: AsyncIterable<Uint8Array>, bytes: Edits['add'][number]['bytes']): Promise<boolean> {
  let done = 0;
  try {
    for await (const chunk of before) {
      if (done + chunk.length > bytes.size) return false;
      if (Buffer.compare(chunk, await bytes.read(done, chunk.length)) !== 0) return false;
      done += chunk.length;
    }
    return done === bytes.size;
  } catch (error) {
    if (error instanceof FaultError && error.fault.code !== 'stopped') return false;
    throw error;
  }
}

/**
 * Packs every new entry and lists what the file will hold.
 *
 * @throws FormatError `cannot-add` naming the field without a value for new rows
 */
export async function draftEntries(setting: PackSetting, edits: Edits, layout: Layout): Promise<ResealedEntries> {
  const { archive, recipe, signal } = setting;
  const kept: number[] = [];
  const fresh = new Map<number, NewBytes>();
  const { time } = edits;
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    if (edits.remove.has(entry)) {
      if (layout !== 'patch') continue;
      const path = archive!.entries.path(entry);
      checkCanMark(setting, path);
      fresh.set(kept.length, await marker(setting, entry, path, time));
      kept.push(entry);
      continue;
    }
    const bytes = edits.replace.get(entry);
    if (layout === 'patch' && bytes === undefined) continue;
    if (bytes !== undefined) {
      throwIfStopped(signal);
      const path = archive!.entries.path(entry);
      fresh.set(kept.length, await packEntry(setting, { base: entry, path, bytes, time, index: entry }));
    } else if (recipe.entries.blocks?.at !== undefined && !archive!.entries.isDeleted(entry)) {
      // Blocks from all over the file are put together; nothing of its layout can stay.
      fresh.set(kept.length, await movedEntry(setting, entry, await openEntry(archive!, entry)));
    }
    kept.push(entry);
  }
  if (edits.remove.size > 0 && layout !== 'patch') checkCanRemove(setting);
  if (edits.add.length > 0 || (edits.mark?.length ?? 0) > 0) {
    checkCanAdd(setting);
    checkPathsAreFree(setting, edits);
  }
  for (const [i, { path, bytes }] of edits.add.entries()) {
    throwIfStopped(signal);
    const index = kept.length + i;
    fresh.set(index, await packEntry(setting, { base: undefined, path, bytes, time, index }));
  }
  const marks = edits.mark ?? [];
  if (marks.length > 0) checkCanMark(setting, marks[0]!);
  for (const [i, path] of marks.entries())
    fresh.set(kept.length + edits.add.length + i, await marker(setting, undefined, path, time));
  return {
    count: kept.length + edits.add.length + marks.length,
    removes: kept.length < (archive?.entries.count ?? 0),
    base: (out) => kept[out],
    fresh: (out) => fresh.get(out),
    reseal: (out, bytes) => void fresh.set(out, bytes),
  };
}

/** @throws FormatError `layout-impossible` when nothing in the format can say that an entry is gone */
function checkCanMark({ recipe }: PackSetting, path: string): void {
  if (recipe.entries.deleted !== undefined) return;
  throw new FormatError({
    code: 'layout-impossible',
    recipe: recipe.id,
    entry: path,
    what: 'the format has no deletion markers, so a patch cannot remove entries',
    hint: 'Rebuild the archive instead, with keep or afresh.',
  });
}

/** A row that says an entry of another archive is gone. */
async function marker(
  setting: PackSetting,
  base: number | undefined,
  path: string,
  time: number | undefined,
): Promise<NewBytes> {
  const nothing = bufferSource(new Uint8Array(0), path);
  const scope = () => fileScope(setting);
  const sums = [
    ...(await contentHashes(setting, 'data', nothing, scope)),
    ...(await contentHashes(setting, 'packed', nothing, scope)),
  ];
  return {
    base,
    path,
    method: 0,
    plain: undefined,
    plainSize: 0,
    stored: nothing,
    hashes: new Map(sums),
    wrap: undefined,
    blocks: [],
    time,
    deleted: true,
    onlyMoved: false,
    made: new Map(),
    seal: undefined,
  };
}

/** @throws FormatError `layout-impossible` */
function checkCanRemove({ recipe }: DraftSetting): void {
  if (!rowsAreFixed(recipe)) return;
  throw new FormatError({
    code: 'layout-impossible',
    recipe: recipe.id,
    line: recipe.entries.line,
    what: `a row of the shape ${recipe.entries.each.shape.name} cannot be left out, because it lies in no list`,
    hint: 'Remove the file as a whole, or replace what is in it.',
  });
}

/** Every field of a new row must have a value from somewhere. */
function checkCanAdd({ recipe, archive }: DraftSetting): void {
  const rule = recipe.entries;
  if (rowsAreFixed(recipe))
    throw new FormatError({
      code: 'cannot-add',
      recipe: recipe.id,
      line: rule.line,
      what: `rows of the shape ${rule.each.shape.name} lie in no list, so that there is no room for another`,
      hint: 'Bind the list that holds them: each: chunk in stream, with only: for those that are entries.',
    });
  const empty = (archive?.entries.count ?? 0) === 0;
  for (const shape of [rule.each.shape, ...rule.beside.map((one) => one.shape)]) {
    const missing = shape.fields.find(
      (field) =>
        field.is === undefined &&
        field.must?.only === undefined &&
        field.parts.length === 0 &&
        ((field.fresh ?? field.changed) === undefined || (field.fresh === 'neighbour' && empty)) &&
        field.when === undefined &&
        field.kind.type.kind === 'value' &&
        field.kind.minSize > 0,
    );
    if (missing === undefined) continue;
    throw new FormatError({
      code: 'cannot-add',
      recipe: recipe.id,
      line: missing.line,
      field: missing.name,
      expected: '`is`, `must` or `new`',
      found: 'none of them',
      hint: 'Say in the recipe what the field is in a new row, such as new: 0.',
    });
  }
}

/** Reads the wraps of entries that are changed, so that what no formula determines in them is kept. */
export async function readChangedWraps(
  setting: DraftSetting,
  edits: Edits,
): Promise<(base: number | undefined) => RowCursor | undefined> {
  const { archive, recipe } = setting;
  const known = new Map<number, RowCursor>();
  if (archive === undefined || recipe.entries.wrap === undefined) return () => undefined;
  for (const entry of edits.replace.keys()) {
    const { wrap } = await openEntry(archive, entry);
    if (wrap !== undefined) known.set(entry, wrap.fields as RowCursor);
  }
  return (base) => (base === undefined ? undefined : known.get(base));
}
