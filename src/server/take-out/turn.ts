/** What an entry goes out as: as it is, or turned into files of an open format. */
import { parseSplit, type PictureOut, type SplitPart } from '../../core/forms/picture';
import type { SoundOut } from '../../core/forms/sound/out-formats';
import { SOUND_OUT } from '../../core/forms/sound/out-formats';
import { labelAsName } from '../changes';
import { pictureFileAs, soundFileAs } from '../forms';
import type { TakeOutOrder } from '../shapes';
import type { Going } from './start';

/** The part of an order that says what entries become. */
export type TurnOrder = Pick<TakeOutOrder, 'layout' | 'pictures' | 'sounds' | 'mip' | 'split' | 'trim'>;

export interface TurnedFile {
  /** What is added to the name, before the ending. */
  readonly suffix: string;
  readonly bytes: Uint8Array;
}

const isSoundOut = (as: PictureOut | SoundOut): as is SoundOut => (SOUND_OUT as readonly string[]).includes(as);

/** The format an entry goes out in, when that is another than its own. */
export function turnedInto(entry: Going, order: TurnOrder): PictureOut | SoundOut | undefined {
  const { pictures, sounds } = order;
  const as = entry.kind === 'picture' ? pictures : entry.kind === 'sound' ? sounds : undefined;
  if (as === undefined) return undefined;
  const changes = isSoundOut(as) ? order.trim : order.split !== undefined || order.mip > 0;
  return entry.path.toLowerCase().endsWith(`.${as}`) && !changes ? undefined : as;
}

/** The parts a picture is split into; none where the format keeps pixels as they are packed. */
function partsFor(as: PictureOut | SoundOut, { split }: TurnOrder): (SplitPart | undefined)[] {
  return split === undefined || (as !== 'png' && as !== 'tga') ? [undefined] : parseSplit(split);
}

/** What is added to the names of the files an entry becomes. */
export const suffixesOf = (as: PictureOut | SoundOut, order: TurnOrder): string[] =>
  partsFor(as, order).map((part) => part?.suffix ?? '');

/** The files an entry becomes: one, or one for each part of a rule that splits pictures. */
export async function turnedFiles(
  { archive, n }: Going,
  as: PictureOut | SoundOut,
  order: TurnOrder,
  signal: AbortSignal,
): Promise<TurnedFile[]> {
  if (isSoundOut(as)) return [{ suffix: '', bytes: (await soundFileAs(archive, n, as, order)).bytes }];
  const files: TurnedFile[] = [];
  for (const part of partsFor(as, order)) {
    const { bytes } = await pictureFileAs(archive, n, as, signal, { mip: order.mip, part });
    files.push({ suffix: part?.suffix ?? '', bytes });
  }
  return files;
}

/** Where an entry goes, before the path is made fit for the file system. */
export function nameFor(entry: Going, { layout }: TurnOrder, as: string | undefined): string {
  const { path, label } = entry;
  const slash = path.lastIndexOf('/') + 1;
  const dot = path.lastIndexOf('.') > slash ? path.lastIndexOf('.') : path.length;
  const ending = as === undefined ? path.slice(dot) : `.${as}`;
  const name = layout === 'labels' && label !== null ? labelAsName(label) : path.slice(slash, dot);
  return `${layout === 'flat' ? '' : path.slice(0, slash)}${name}${ending}`;
}

export function withSuffix(path: string, suffix: string): string {
  const dot = path.lastIndexOf('.');
  return suffix === '' ? path : `${path.slice(0, dot)}${suffix}${path.slice(dot)}`;
}
