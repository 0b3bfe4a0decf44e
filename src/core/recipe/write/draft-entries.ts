/** The entries of a file in the making: what stays, what is packed anew, what only marks that something is gone. */
import { bufferSource } from '../../bytes';
import { FormatError, throwIfStopped } from '../../faults';
import type { Shape } from '../model';
import { openEntry } from '../read/entry-bytes';
import type { RowCursor } from '../read/table';
import { contentHashes } from './content-hashes';
import type { DraftEntries, DraftSetting } from './draft';
import type { Edits, Layout } from './edits';
import type { NewBytes } from './new-bytes';
import { packEntry, type PackSetting } from './pack';

/**
 * Packs every new entry and lists what the file will hold.
 *
 * @throws FormatError `cannot-add` naming the field without a value for new rows
 */
export async function draftEntries(setting: PackSetting, edits: Edits, layout: Layout): Promise<DraftEntries> {
  const { archive, signal, recipe } = setting;
  const kept: number[] = [];
  const fresh = new Map<number, NewBytes>();
  const { time } = edits;
  for (let entry = 0; entry < (archive?.entries.count ?? 0); entry++) {
    const path = archive!.entries.path(entry);
    if (edits.remove.has(entry)) {
      if (layout !== 'patch') continue;
      if (recipe.entries.deleted === undefined)
        throw new FormatError({
          code: 'layout-impossible',
          recipe: recipe.id,
          entry: path,
          what: 'the format has no deletion markers, so a patch cannot remove entries',
          hint: 'Rebuild the archive instead, with keep or afresh.',
        });
      fresh.set(kept.length, await marker(setting, entry, path, time));
      kept.push(entry);
      continue;
    }
    const bytes = edits.replace.get(entry);
    if (layout === 'patch' && bytes === undefined) continue;
    if (bytes !== undefined) {
      throwIfStopped(signal);
      fresh.set(kept.length, await packEntry(setting, { base: entry, path, bytes, time, index: entry }));
    }
    kept.push(entry);
  }
  if (edits.add.length > 0) checkCanAdd(setting);
  for (const [i, { path, bytes }] of edits.add.entries()) {
    throwIfStopped(signal);
    fresh.set(
      kept.length + i,
      await packEntry(setting, { base: undefined, path, bytes, time, index: kept.length + i }),
    );
  }
  return {
    count: kept.length + edits.add.length,
    base: (out) => kept[out],
    fresh: (out) => fresh.get(out),
  };
}

/** A row that says an entry of another archive is gone. */
async function marker(setting: PackSetting, base: number, path: string, time: number | undefined): Promise<NewBytes> {
  const nothing = bufferSource(new Uint8Array(0), path);
  const sums = [
    ...(await contentHashes(setting, 'data', nothing)),
    ...(await contentHashes(setting, 'packed', nothing)),
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
    made: new Map(),
  };
}

/** Every field of a new row must have a value from somewhere. */
function checkCanAdd({ recipe, archive }: DraftSetting): void {
  const rule = recipe.entries;
  if (archive !== undefined && rule.each.anywhere && !isListItem(rule.each.shape, recipe.shapes))
    throw new FormatError({
      code: 'cannot-add',
      recipe: recipe.id,
      line: rule.line,
      what: `rows of the shape ${rule.each.shape.name} stand inside others and cannot be added by themselves`,
      hint: 'Bind the list that holds them: each: chunk in stream, with only: for those that are entries.',
    });
  const empty = (archive?.entries.count ?? 0) === 0;
  for (const shape of [rule.each.shape, ...rule.beside.map((one) => one.shape)]) {
    const missing = shape.fields.find(
      (field) =>
        field.is === undefined &&
        field.must === undefined &&
        field.parts.length === 0 &&
        (field.fresh === undefined || (field.fresh === 'neighbour' && empty)) &&
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

function isListItem(shape: Shape, shapes: readonly Shape[]): boolean {
  return shapes.some((one) =>
    one.fields.some(
      ({ kind: { type } }) => type.kind === 'list' && type.of.kind === 'shape' && type.of.shape === shape,
    ),
  );
}

/** Reads the wraps of entries that are changed, so that what no formula tells in them is kept. */
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
