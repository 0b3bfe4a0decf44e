/** The files of one archive: which is which, and what their names must be. */
import type { ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import { LISTING } from '../language/folder-text';
import type { Recipe, VolumeSet } from '../model';
import type { VolumeFacts } from './per-volume';

export interface OpenVolume {
  readonly set: VolumeSet;
  /** Its number in a numbered set, else 0. */
  readonly number: number;
  readonly name: string;
  readonly source: ByteSource;
}

/** The main name in parts: `voices.cue` → name `voices.cue`, stem `voices`. */
function partsOf(main: string): { name: string; stem: string } {
  const name = baseName(main);
  const dot = name.lastIndexOf('.');
  return { name, stem: dot <= 0 ? name : name.slice(0, dot) };
}

/** What a region that is in each of several volumes asks of one. */
export const volumeFactsOf = ({ set, number }: OpenVolume): VolumeFacts => ({ set: set.name, number });

export function baseName(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}

/** The file name of a volume next to its main file. */
export function volumeName(set: VolumeSet, main: string, number: number): string {
  const { name, stem } = partsOf(main);
  return set.pattern
    .replaceAll('{name}', name)
    .replaceAll('{stem}', stem)
    .replace(/\{n(?::(0+))?\}/, (_, zeros: string | undefined) => String(number).padStart(zeros?.length ?? 1, '0'))
    .replaceAll('*', stem);
}

/** Names of the further files of an archive that go by no number. */
const companionNames = ({ volumes }: Recipe, main: string): string[] =>
  volumes.slice(1).flatMap((set) => (set.numbered || set.anyFile ? [] : [volumeName(set, main, 0)]));

/** Their paths: from the folder of the main one, or with a `/` in front from the top of the archive. */
export const companionPaths = (recipe: Recipe, main: string): string[] =>
  companionNames(recipe, main).map((name) =>
    name.startsWith('/') ? name.slice(1) : main.slice(0, main.lastIndexOf('/') + 1) + name,
  );

/** True for the volume of a folder that no file is. */
export function isListing(recipe: Recipe, set: VolumeSet): boolean {
  return recipe.presents === 'folder' && set.name === LISTING;
}

/** The path of a file below the folder of the main one. */
export function below(main: string, path: string): string {
  const folder = main.slice(0, main.lastIndexOf('/') + 1);
  return path.startsWith(folder) ? path.slice(folder.length) : baseName(path);
}

/** The number a file name has in a numbered set, when it belongs to it. */
export function volumeNumber(set: VolumeSet, main: string, candidate: string): number | undefined {
  if (set.anyFile) return undefined;
  if (!set.numbered) return baseName(candidate) === baseName(volumeName(set, main, 0)) ? 0 : undefined;
  const digits = /\d+/g;
  for (const found of baseName(candidate).matchAll(digits)) {
    const number = Number(found[0]);
    if (volumeName(set, main, number) === baseName(candidate)) return number;
  }
  return undefined;
}

/**
 * Assigns files to the recipe's volumes: by their names, and where these say nothing, in the order they are given.
 *
 * @param sources the main file first
 * @throws FormatError `volume-missing` naming what is needed to know which entries there are
 */
export function assignVolumes(recipe: Recipe, sources: readonly ByteSource[]): OpenVolume[] {
  const [main, ...more] = sources;
  const [mainSet, ...sets] = recipe.volumes;
  const volumes: OpenVolume[] = [{ set: mainSet!, number: 0, name: baseName(main!.name), source: main! }];
  const unnamed: ByteSource[] = [];
  for (const source of more) {
    // Files of a folder are numbered as they come, whatever they are called.
    const fit = sets
      .filter((set) => !set.anyFile)
      .map((set) => ({ set, number: volumeNumber(set, main!.name, source.name) }))
      .find(({ number }) => number !== undefined);
    if (fit === undefined) unnamed.push(source);
    else volumes.push({ set: fit.set, number: fit.number!, name: baseName(source.name), source });
  }
  for (const source of unnamed) {
    const open = sets.find((set) => set.numbered || !volumes.some((one) => one.set === set));
    if (open === undefined)
      throw new FormatError({
        code: 'wrong-kind',
        file: source.name,
        recipe: recipe.id,
        what: 'this file is no volume of the archive',
        expected: sets.map((set) => volumeName(set, main!.name, set.first)).join(', ') || 'one file',
      });
    const number = open.numbered ? nextNumber(open, volumes) : 0;
    volumes.push({
      set: open,
      number,
      name: open.anyFile ? below(main!.name, source.name) : baseName(source.name),
      source,
    });
  }
  for (const set of missingSets(recipe, volumes)) {
    // Where no rows are in it, it costs the entries whose bytes are, and no others.
    if (rowRegions(recipe).some((index) => recipe.regions[index]!.volume === set.name))
      throw missingVolume(recipe, set, main!.name);
  }
  // Sets in the recipe's order, numbers ascending: places among volumes are stable.
  const rank = (one: OpenVolume) => recipe.volumes.indexOf(one.set);
  return volumes.sort((a, b) => rank(a) - rank(b) || a.number - b.number);
}

/** Regions that list the entries. */
function rowRegions({ entries: { each, beside, folders, blocks } }: Recipe): number[] {
  const bindings = [each, ...beside, ...(folders === undefined ? [] : [folders.each])];
  return [...bindings, ...(blocks?.each === undefined ? [] : [blocks.each])].map(({ region }) => region);
}

/** Volumes that an archive of this recipe has to have, and that are not there. */
export function missingSets({ volumes: [, ...sets] }: Recipe, volumes: readonly OpenVolume[]): VolumeSet[] {
  return sets.filter((set) => !set.optional && !set.numbered && !volumes.some((one) => one.set === set));
}

export function missingVolume(recipe: Recipe, set: VolumeSet, main: string): FormatError {
  const wanted = volumeName(set, main, set.first);
  return new FormatError({
    code: 'volume-missing',
    file: main,
    recipe: recipe.id,
    what: `${baseName(main)} needs ${wanted}`,
    expected: wanted,
    hint: 'Put it beside the main file, or name it after it.',
  });
}

function nextNumber(set: VolumeSet, volumes: readonly OpenVolume[]): number {
  const used = volumes.filter((one) => one.set === set).map((one) => one.number);
  return used.length === 0 ? set.first : Math.max(...used) + 1;
}

/** The set and the number that `main` or `data[3]` names. */
export function volumeNamed(name: string): { set: string; number: number } {
  const match = /^([^[]+)(?:\[(\d+)\])?$/.exec(name);
  return { set: match?.[1] ?? name, number: Number(match?.[2] ?? 0) };
}

/** The place of a volume among the opened ones, from `main` or `data[3]`. */
export function volumePlace(volumes: readonly OpenVolume[], name: string): number {
  const wanted = volumeNamed(name);
  return volumes.findIndex(
    ({ set, number }) => set.name === wanted.set && (!name.includes('[') || number === wanted.number),
  );
}
