/** All that a person does with an archive, one after the other; what must never come of it. */
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { isFaultError, sayFault, type Fault } from '../../src/core/faults';
import {
  LAYOUTS,
  NAMELESS,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  type Archive,
  type Edits,
  type Recipe,
} from '../../src/core/recipe';
import type { SampleFile } from '../formats/sample';
import type { Dice } from './dice';

/** What a case ended with: done to the end, or refused. */
export type Outcome = 'done' | `refused: ${string}`;

/** What no case may end with. */
export class Broken extends Error {}

/** Words of the engine and its libraries, which tell a person nothing. */
const ENGINE =
  /call stack|is not a function|is not iterable|Cannot read|undefined|\[object [A-Z]|\bNaN\b|Invalid array|Invalid typed|out of memory|\bE[A-Z]{4,}\b.*errno|Failed to compress|BigInt|offset.*out of range|ERR_[A-Z]/u;

/** The fault of an error. @throws Broken when it is none, or says nothing a person can use */
export function refusal(error: unknown): Outcome {
  if (error instanceof Broken) throw error;
  if (!isFaultError(error)) throw new Broken(`no fault: ${(error as Error).stack ?? String(error)}`);
  const { fault } = error;
  const sentence = sayFault(fault);
  if (fault.code === 'defect') throw new Broken(`a defect: ${sentence}`);
  // What the script of an own step throws is in its author's words.
  if (ENGINE.test(sentence) && !/the step \S+ failed in/u.test(sentence))
    throw new Broken(`words of the engine: ${sentence}`);
  if (!isPlaced(fault)) throw new Broken(`no place: ${JSON.stringify(fault)} ${error.stack ?? ''}`);
  return `refused: ${fault.code}${fault.what === undefined ? '' : `, ${fault.what}`}`;
}

function isPlaced({ file, entry, line, region, field, recipe }: Fault): boolean {
  return [file, entry, line, region, field, recipe].some((part) => part !== undefined);
}

export interface Exercise {
  readonly recipe: Recipe;
  readonly files: readonly SampleFile[];
  readonly keys: Readonly<Record<string, Uint8Array>>;
  readonly names: readonly string[];
}

const LIMITS = { maxSeconds: 4, maxEntryBytes: 1 << 24, maxRegionBytes: 1 << 24, maxStretchBytes: 1 << 24 };
/** Entries that are read and compared. */
const MOST_ENTRIES = 40;

async function open({ recipe, files, keys, names }: Exercise): Promise<Archive> {
  const sources = files.map(({ name, bytes }) => bufferSource(bytes, name));
  return openArchive(recipe, sources, { keys: new Map(Object.entries(keys)), limits: LIMITS, names });
}

/** Opens, reads, proves, and writes it with the edits that `choose` makes. */
export async function exercise(
  setting: Exercise,
  dice: Dice,
  choose: (archive: Archive, dice: Dice) => Edits,
): Promise<Outcome> {
  try {
    const archive = await open(setting);
    const before = await contents(archive);
    await prove(archive, { scratch: memoryScratch(), maxChangedBytes: 1 << 20 });
    const edits = choose(archive, dice);
    const layout = dice.pick(LAYOUTS);
    const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
    const files: SampleFile[] = [];
    for (const volume of plan.volumes) files.push({ name: volume.name, bytes: await collect(volumeBytes(volume)) });
    await compare(archive, before, edits, layout === 'patch', { ...setting, files });
    return 'done';
  } catch (error) {
    return refusal(error);
  }
}

type Contents = ReadonlyMap<string, string | undefined>;

/** The bytes of entries by path, undefined where they cannot be read; of a path that is there twice nothing is known. */
async function contents(archive: Archive): Promise<Contents> {
  const found = new Map<string, string | undefined>();
  for (let i = 0; i < Math.min(archive.entries.count, MOST_ENTRIES); i++) {
    if (archive.entries.isDeleted(i)) continue;
    const path = archive.entries.path(i);
    // Nothing but its number distinguishes it from others, and the numbers change.
    if (path.startsWith(NAMELESS)) continue;
    let bytes: string | undefined;
    try {
      bytes = Buffer.from(await collect(readEntry(archive, i))).toString('base64');
    } catch (error) {
      refusal(error);
    }
    found.set(path, found.has(path) ? undefined : bytes);
  }
  return found;
}

/** What was written must read as it was meant. */
async function compare(
  archive: Archive,
  before: Contents,
  edits: Edits,
  isPatch: boolean,
  written: Exercise,
): Promise<void> {
  // Where two have one hash, the one that is there now: the other was removed.
  const names = [...edits.add.map(({ path }) => path), ...written.names];
  let again: Archive;
  try {
    again = await open({ ...written, names });
  } catch (error) {
    throw new Broken(`what was written cannot be opened: ${(error as Error).message}`, { cause: error });
  }
  const found = await contents(again);
  if (again.entries.count > MOST_ENTRIES) return;
  for (const { path, bytes } of edits.add) {
    const wanted = Buffer.from(await bytes.read(0, bytes.size)).toString('base64');
    if (found.get(path) !== wanted) throw new Broken(`an entry that was added does not read back: ${path}`);
  }
  for (const [entry, bytes] of edits.replace) {
    const path = archive.entries.path(entry);
    if (!before.has(path) || before.get(path) === undefined) continue;
    const wanted = Buffer.from(await bytes.read(0, bytes.size)).toString('base64');
    if (found.get(path) !== wanted) throw new Broken(`an entry that was replaced does not read back: ${path}`);
  }
  if (isPatch) return;
  const touched = new Set([...edits.replace.keys(), ...edits.remove].map((entry) => archive.entries.path(entry)));
  for (const [path, bytes] of before)
    if (
      bytes !== undefined &&
      !touched.has(path) &&
      !edits.add.some((one) => one.path === path) &&
      found.get(path) !== bytes
    )
      throw new Broken(`an entry that nobody touched reads otherwise: ${path}`);
}

/** A few entries replaced, removed and added. */
export function someEdits(archive: Archive, dice: Dice, grows: boolean, paths: readonly string[]): Edits {
  const replace = new Map<number, ReturnType<typeof bufferSource>>();
  const remove = new Set<number>();
  for (let i = 0; i < Math.min(archive.entries.count, MOST_ENTRIES); i++) {
    if (dice.chance(0.3)) replace.set(i, bufferSource(someBytes(dice), 'new'));
    else if (dice.chance(0.15)) remove.add(i);
  }
  const add =
    grows && dice.chance(0.7) ? paths.map((path) => ({ path, bytes: bufferSource(someBytes(dice), path) })) : [];
  return { ...NO_EDITS, replace, remove, add };
}

export function someBytes(dice: Dice): Uint8Array {
  const length = dice.pick([0, 1, 7, 100, 900, 4_100]);
  return dice.chance(0.5) ? dice.bytes(length) : new Uint8Array(length).fill(dice.upTo(255));
}
