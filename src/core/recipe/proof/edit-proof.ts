/** The fifth part of the proof: what people do with an archive, each done, read back, or refused by name. */
import { bufferSource, type ByteSource } from '../../bytes';
import { FaultError, throwIfStopped, type Fault } from '../../faults';
import type { OpenedArchive } from '../read/opened-archive';
import { readEntry } from '../read/entry-bytes';
import { linkTargets } from '../read/links';
import { KEEPS_NO_NAMES, NOT_FOUND_AGAIN } from '../write/checking/match-entries';
import type { Layout } from '../model';
import { NO_EDITS, type Edits } from '../write/edits/edits';
import { madeEntries } from '../write/edits/made';
import { planRebuild } from '../write/plan';
import { freePath, freePathInNewFolder } from './free-path';
import { alteredEntries } from './changed-entries';
import { EDIT_KINDS, type EditKind, type EditProof, type Proof, type ProvenEdit, type ProveOptions } from './proof';

/** Refusals that are the format's, not the recipe's. */
const FORBIDDEN: ReadonlySet<string> = new Set(['cannot-add', 'layout-impossible']);

/** With more entries or bytes than this, each edit is tried in the first layout, and all of them in every layout. */
const MANY_ENTRIES = 500;
const MANY_BYTES = 1 << 23;
/** With more than this, only all of them at once are, in the first layout. */
const VERY_MANY_ENTRIES = 20_000;
const VERY_MANY_BYTES = 1 << 26;
/** How often the paths of added entries are changed to those they would get: a path worked out of itself never comes to rest. */
const MOST_RENAMES = 4;
/** The largest entry that is changed. */
const MOST_BYTES = 1 << 24;

type Single = Exclude<EditKind, 'all'>;
type SingleEdits = { readonly [kind in Single]?: Edits };

/** Plans every edit in every layout; a plan is checked by reading it back. */
export async function proveEdits(archive: OpenedArchive, options: ProveOptions): Promise<EditProof> {
  const single = await singleEdits(archive, options);
  const kinds = EDIT_KINDS.filter((kind) => kind !== 'all' && single[kind] !== undefined) as Single[];
  const edits: ProvenEdit[] = [];
  if (kinds.length > 0)
    for (const [kind, layout] of chosen(archive, kinds, options.brief === true)) {
      throwIfStopped(options.signal);
      const one = kind === 'all' ? together(single, edits, layout) : single[kind]!;
      edits.push(await tried(archive, kind, layout, one, options));
    }
  const refused = edits.filter(({ fault }) => fault !== undefined);
  const first = (refused.find(({ forbidden }) => !forbidden) ?? refused[0])?.fault;
  return { done: edits.length - refused.length, total: edits.length, edits, ...(first === undefined ? {} : { first }) };
}

/**
 * In very large archives one plan shows the fourth part of the proof and the fifth.
 *
 * @returns undefined when the archive is not that large, or something is wrong: then each part is shown by itself
 */
export async function proveTogether(
  archive: OpenedArchive,
  options: ProveOptions,
  progress: (done: number) => void,
): Promise<Pick<Proof, 'changed' | 'edits'> | undefined> {
  if (!isVeryLarge(archive)) return undefined;
  const { scratch, signal } = options;
  const [layout] = archive.recipe.layouts;
  const total = archive.entries.count;
  try {
    const altered = await alteredEntries(archive, options, progress);
    const all = together(await singleEdits(archive, options), [], layout!);
    const replace = new Map([...altered, ...all.replace]);
    for (const entry of all.remove) replace.delete(entry);
    await planRebuild(archive, { ...all, replace }, { layout: layout!, scratch, signal });
    progress(total);
    const edits: ProvenEdit[] = [{ edit: 'all', layout: layout!, forbidden: false }];
    return {
      changed: { equal: replace.size, tested: replace.size, total },
      edits: { done: 1, total: 1, edits },
    };
  } catch (error) {
    if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
    return undefined;
  }
}

/** True when nothing is left to be desired but what the format forbids. A recipe that forbids everything proves nothing. */
export function editsHold({ done, total, edits }: EditProof): boolean {
  if (total > 0 && done === 0) return false;
  return edits.every(({ fault, forbidden }) => fault === undefined || forbidden);
}

/** Which edits are tried in which layouts: the larger the archive, the fewer. */
function chosen(archive: OpenedArchive, kinds: readonly Single[], brief: boolean): [EditKind, Layout][] {
  const { entries, recipe } = archive;
  const { layouts } = recipe;
  if (isVeryLarge(archive)) return [['all', layouts[0]!]];
  const bytes = sizeOf(archive);
  const pairs: [EditKind, Layout][] = [];
  for (const [i, layout] of (brief ? layouts.slice(0, 1) : layouts).entries()) {
    if (i === 0 || (entries.count <= MANY_ENTRIES && bytes <= MANY_BYTES))
      for (const kind of kinds) pairs.push([kind, layout]);
    pairs.push(['all', layout]);
  }
  return pairs;
}

function isVeryLarge(archive: OpenedArchive): boolean {
  return archive.entries.count > VERY_MANY_ENTRIES || sizeOf(archive) > VERY_MANY_BYTES;
}

function sizeOf({ volumes }: OpenedArchive): number {
  return volumes.reduce((sum, { source }) => sum + source.size, 0);
}

async function tried(
  archive: OpenedArchive,
  edit: EditKind,
  layout: Layout,
  edits: Edits,
  options: ProveOptions,
  renames = 0,
): Promise<ProvenEdit> {
  const { scratch, signal } = options;
  try {
    await planRebuild(archive, edits, { layout, scratch, signal });
    return { edit, layout, forbidden: false };
  } catch (error) {
    if (!(error instanceof FaultError) || ['stopped', 'disk-full'].includes(error.fault.code)) throw error;
    const { fault } = error;
    const named = renames < MOST_RENAMES ? withGivenPath(archive, edits, fault) : undefined;
    if (named !== undefined) return tried(archive, edit, layout, named, options, renames + 1);
    // Paths that are worked out of other things are not free to be chosen.
    const isTold = fault.what === NOT_FOUND_AGAIN && edits.add.some(({ path }) => path === fault.entry);
    return { edit, layout, fault, forbidden: isTold || FORBIDDEN.has(fault.code) };
  }
}

/** Where the format keeps no names, or not just any, the edits again with the path that the entry would get. */
function withGivenPath({ entries }: OpenedArchive, edits: Edits, { what, entry, found }: Fault): Edits | undefined {
  const added =
    what === KEEPS_NO_NAMES || what === NOT_FOUND_AGAIN ? edits.add.findIndex(({ path }) => path === entry) : -1;
  if (added < 0 || found === undefined || edits.add.some(({ path }) => path === found)) return undefined;
  for (let i = 0; i < entries.count; i++) if (entries.path(i) === found) return undefined;
  return { ...edits, add: edits.add.map((one, i) => (i === added ? { ...one, path: found } : one)) };
}

/** All edits at once, but for those that were refused by themselves. */
function together(single: SingleEdits, before: readonly ProvenEdit[], layout: Layout): Edits {
  const replace = new Map<number, ByteSource>();
  const add: Edits['add'][number][] = [];
  const remove = new Set<number>();
  for (const [kind, edits] of Object.entries(single)) {
    const tried = before.filter((one) => one.edit === kind);
    // What was not tried in this layout goes as it did in the first.
    const verdict = tried.find((one) => one.layout === layout) ?? tried[0];
    if (verdict?.fault !== undefined) continue;
    for (const entry of edits.remove) remove.add(entry);
    for (const [entry, bytes] of edits.replace) if (!replace.has(entry)) replace.set(entry, bytes);
    for (const one of edits.add) if (!add.some(({ path }) => path === one.path)) add.push(one);
  }
  for (const entry of remove) replace.delete(entry);
  return { ...NO_EDITS, replace, add, remove };
}

async function singleEdits(archive: OpenedArchive, options: ProveOptions): Promise<SingleEdits> {
  const { entries, recipe } = archive;
  const made = madeEntries(archive);
  const isPlain = (i: number) =>
    !entries.isDeleted(i) && !entries.isDirectory(i) && entries.link(i) === undefined && !made.has(i);
  const usable: number[] = [];
  const empty: number[] = [];
  for (let i = 0; i < entries.count && usable.length < MANY_ENTRIES; i++) {
    if (!isPlain(i) || entries.damage(i) !== undefined) continue;
    const size = entries.size(i);
    if (size === 0 || (Number.isNaN(size) && entries.stored(i) === 0)) empty.push(i);
    else if (!(size > MOST_BYTES)) usable.push(i);
  }
  const samples = await readable(archive, usable, options);
  const [sample, other, third] = samples;
  if (sample === undefined) return {};
  const replaced = (entry: number, bytes: Uint8Array): Edits => ({
    ...NO_EDITS,
    replace: new Map([[entry, bufferSource(bytes, entries.path(entry))]]),
  });
  const added = (path: string): Edits => ({
    ...NO_EDITS,
    add: [{ path, bytes: bufferSource(changed(sample.bytes), path) }],
  });
  const grows = recipe.presents !== 'folder';
  const linked = linkTargets(archive);
  const last = samples.findLast(({ entry }) => !linked.has(entry));
  const path = freePath(entries, highest(entries, sample.entry));
  return {
    longer: replaced(sample.entry, Buffer.concat([changed(sample.bytes), sample.bytes])),
    ...(other === undefined ? {} : { shorter: replaced(other.entry, changed(other.bytes).subarray(0, -1)) }),
    ...(third === undefined ? {} : { empty: replaced(third.entry, new Uint8Array(0)) }),
    ...(empty.length === 0 ? {} : { filled: replaced(empty[0]!, changed(sample.bytes)) }),
    ...(grows ? { added: added(path), 'added-in-folder': added(freePathInNewFolder(entries, sample.entry)) } : {}),
    ...(grows && last !== undefined ? { removed: { ...NO_EDITS, remove: new Set([last.entry]) } } : {}),
  };
}

/** The entry, or the last one where that lies in fewer folders: a folder may be no more than what its entries are about. */
function highest(entries: OpenedArchive['entries'], entry: number): number {
  const last = entries.count - 1;
  const depth = (one: number) => entries.path(one).split('/').length;
  return !entries.isDeleted(last) && entries.isNamed(last) && depth(last) < depth(entry) ? last : entry;
}

interface Sample {
  readonly entry: number;
  readonly bytes: Uint8Array;
}

/** Up to four entries that can be read, spread over the archive. */
async function readable(
  archive: OpenedArchive,
  usable: readonly number[],
  { signal }: ProveOptions,
): Promise<readonly Sample[]> {
  const samples: Sample[] = [];
  const step = Math.max(1, Math.floor(usable.length / 4));
  for (let i = 0; i < usable.length && samples.length < 4; i += step) {
    const entry = usable[i]!;
    try {
      const bytes = await small(readEntry(archive, entry, { signal }));
      if (bytes !== undefined && bytes.length > 0) samples.push({ entry, bytes });
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
    }
  }
  return samples;
}

/** Nothing when there is more than an edit should hold: where no size is stored, only reading shows it. */
async function small(chunks: AsyncIterable<Uint8Array>): Promise<Uint8Array | undefined> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > MOST_BYTES) return undefined;
    parts.push(chunk);
  }
  return Buffer.concat(parts);
}

/** Other bytes of the same length. */
function changed(bytes: Uint8Array): Uint8Array {
  const other = Uint8Array.from(bytes);
  if (other.length > 0) other[0] = ~other[0]! & 0xff;
  return other;
}
