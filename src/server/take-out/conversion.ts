/** What an entry goes out as: as it is, or turned into files of an open format. */
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { fontContainer } from '../../core/forms/font';
import { FONT_OUT, type FontOut } from '../../core/forms/font/out-formats';
import { MESH_OUT, type MeshOut } from '../../core/forms/mesh/out-formats';
import { parseSplit, type PictureOut, type SplitPart } from '../../core/forms/picture';
import { SOUND_OUT, type SoundOut } from '../../core/forms/sound/out-formats';
import { labelAsName } from '../changes';
import { entryBytes } from '../content';
import { entryMeshAs } from '../entries';
import { filmRoom, filmSource, makeFilm, type FilmChoice } from '../films';
import { fontInContainer, pictureFileAs, soundFileAs } from '../forms';
import { endingsOf, partsOfPictures } from '../recipes';
import type { TakeOutOrder } from '../shapes';
import { inOne } from './destination';
import type { OutgoingEntry } from '../shapes';

/** The part of an order that says what entries become. */
type ConversionOrder = Pick<
  TakeOutOrder,
  | 'layout'
  | 'pictures'
  | 'sounds'
  | 'meshes'
  | 'films'
  | 'fonts'
  | 'clips'
  | 'levels'
  | 'scale'
  | 'solid'
  | 'mip'
  | 'split'
  | 'trim'
>;

/** What entries become, with what has to be known of all that go out together. */
export interface Conversion {
  readonly gameId: number;
  readonly order: ConversionOrder;
  /** Endings of clips, which go out with a mesh and have no form of their own. */
  readonly clips: ReadonlySet<string>;
  /** Paths of all that goes out. */
  readonly taken: ReadonlySet<string>;
  /** Films of which packets go out, by their archives: what they are called, and the packet that represents all. */
  readonly films: ReadonlyMap<number, { readonly name: string; readonly n: number }>;
}

export async function conversionOf(
  gameId: number,
  order: ConversionOrder,
  entries: readonly OutgoingEntry[],
): Promise<Conversion> {
  const films = new Map<number, { name: string; n: number }>();
  const archives =
    order.films === undefined
      ? []
      : new Set(entries.flatMap(({ kind, archive }) => (kind === 'film' ? [archive] : [])));
  for (const archive of archives) {
    const { n } = entries.find((entry) => entry.archive === archive)!;
    const source = await filmSource(archive, n);
    if (source.is === 'packets') films.set(archive, { name: source.name, n });
  }
  return { gameId, order, films, clips: await endingsOf('clip'), taken: new Set(entries.map(({ path }) => path)) };
}

/** Those that go out in files of their own: what holds a part of a picture or a film goes out in that. */
export async function wholeEntries(
  form: TakeOutOrder['form'],
  entries: readonly OutgoingEntry[],
  conversion: Conversion,
): Promise<readonly OutgoingEntry[]> {
  if (form !== 'open') return entries;
  const turned = entries.filter((entry) => convertedTo(entry, conversion) !== undefined);
  const parts = await partsOfPictures(turned.map(({ path }) => path));
  return entries.filter((entry) => !parts.has(entry.path) && !isWithin(entry, conversion));
}

/** Whether an entry goes out in the file of another. */
const isWithin = ({ archive, n }: OutgoingEntry, { films }: Conversion): boolean =>
  films.has(archive) && films.get(archive)!.n !== n;

export interface TurnedFile {
  /** What is added to the name, before the ending. */
  readonly suffix: string;
  /** Set where it ends otherwise than the others, with its dot. */
  readonly ending?: string;
  /** To be read before the next file is asked for. */
  readonly chunks: AsyncIterable<Uint8Array>;
  /** What is to be said of it, in sentences. */
  readonly says: readonly string[];
}

export type ConvertedAs = PictureOut | SoundOut | MeshOut | FontOut | NonNullable<ConversionOrder['films']>;

const isOneOf = <T extends string>(all: readonly T[], as: string): as is T => (all as readonly string[]).includes(as);

const isFilm = (as: string): as is 'webm' | 'mp4' => as === 'webm' || as === 'mp4';

/** The format an entry goes out in, when that is another than its own. */
export function convertedTo(entry: OutgoingEntry, { order, clips }: Conversion): ConvertedAs | undefined {
  const { kind, path } = entry;
  const ending = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
  const wanted = {
    picture: order.pictures,
    sound: order.sounds,
    mesh: order.meshes,
    film: order.films,
    font: order.fonts,
  };
  const as = kind in wanted ? wanted[kind as keyof typeof wanted] : undefined;
  if (as === undefined || (clips.has(ending) && as !== 'glb')) return undefined;
  const changes = isOneOf(SOUND_OUT, as)
    ? order.trim
    : isOneOf(MESH_OUT, as) || isOneOf(FONT_OUT, as) || isFilm(as)
      ? false
      : order.split !== undefined || order.mip > 0;
  return ending === as && !changes ? undefined : as;
}

/** The parts a picture is split into; none where the format keeps pixels as they are packed. */
function partsFor(as: ConvertedAs, { split }: ConversionOrder): (SplitPart | undefined)[] {
  return split === undefined || (as !== 'png' && as !== 'tga') ? [undefined] : parseSplit(split);
}

/** What is added to the names of the files an entry becomes. */
export const suffixesOf = (as: ConvertedAs, { order }: Conversion): string[] =>
  partsFor(as, order).map((part) => part?.suffix ?? '');

/** The files an entry becomes, one after the other: one, or one for each part of a rule that splits pictures. */
export async function* convertedFiles(
  { archive, n }: OutgoingEntry,
  as: ConvertedAs,
  { gameId, order, taken }: Conversion,
  signal: AbortSignal,
): AsyncGenerator<TurnedFile> {
  if (isOneOf(SOUND_OUT, as)) {
    const { bytes } = await soundFileAs(archive, n, as, order);
    yield { suffix: '', chunks: inOne(bytes), says: [] };
  } else if (isOneOf(MESH_OUT, as)) {
    const { levels, scale, solid } = order;
    const clips = order.clips === 'taken' ? taken : order.clips === 'all';
    const choice = { as, clips, textures: 'inside', allLevels: levels, scale, solid } as const;
    const { bytes, says } = await entryMeshAs(gameId, archive, n, choice, signal);
    yield { suffix: '', chunks: inOne(bytes), says };
  } else if (isOneOf(FONT_OUT, as)) {
    yield await fontFile(archive, n, as);
  } else if (isFilm(as)) yield* filmFiles(archive, n, as, signal);
  else
    for (const part of partsFor(as, order)) {
      const { bytes } = await pictureFileAs(archive, n, as, signal, { mip: order.mip, part });
      yield { suffix: part?.suffix ?? '', chunks: inOne(bytes), says: [] };
    }
}

/** A font in another container; fonts of pictures and collections have none, and stay as they are. */
async function fontFile(archive: number, n: number, as: FontOut): Promise<TurnedFile> {
  const { bytes, path } = await entryBytes(archive, n);
  const container = fontContainer(bytes);
  if (container === undefined || container === 'TrueType collection')
    return { suffix: '', ending: path.slice(path.lastIndexOf('.')), chunks: inOne(bytes), says: [] };
  return { suffix: '', chunks: inOne(await fontInContainer(bytes, as, path)), says: [] };
}

/** A film, and the subtitles of one of packets in files next to it. */
async function* filmFiles(
  archive: number,
  n: number,
  as: 'webm' | 'mp4',
  signal: AbortSignal,
): AsyncGenerator<TurnedFile> {
  const source = await filmSource(archive, n);
  const room = await filmRoom();
  try {
    const made = async (name: string, choice: FilmChoice) => {
      await makeFilm(source, choice, join(room, name), { signal });
      return createReadStream(join(room, name), { highWaterMark: 1 << 20 });
    };
    yield { suffix: '', chunks: await made(`film.${as}`, { as }), says: [] };
    const subtitles = source.is === 'packets' ? source.film.streams.filter(({ is }) => is === 'subtitles') : [];
    for (const { number, locale } of subtitles)
      yield {
        suffix: `.${locale === '' ? number : locale}`,
        ending: '.srt',
        chunks: await made(`${number}.srt`, { as: 'srt', stream: number }),
        says: [],
      };
  } finally {
    await rm(room, { recursive: true, force: true });
  }
}

/** Where an entry goes, before the path is made fit for the file system. */
export function nameFor(
  entry: OutgoingEntry,
  { order: { layout }, films }: Conversion,
  as: string | undefined,
): string {
  const { label } = entry;
  const path = films.get(entry.archive)?.name ?? entry.path;
  const slash = path.lastIndexOf('/') + 1;
  const dot = path.lastIndexOf('.') > slash ? path.lastIndexOf('.') : path.length;
  const ending = as === undefined ? path.slice(dot) : `.${as}`;
  const name = layout === 'labels' && label !== null ? labelAsName(label) : path.slice(slash, dot);
  return `${layout === 'flat' ? '' : path.slice(0, slash)}${name}${ending}`;
}

export function withSuffix(path: string, { suffix, ending }: Pick<TurnedFile, 'suffix' | 'ending'>): string {
  const dot = path.lastIndexOf('.');
  return `${path.slice(0, dot)}${suffix}${ending ?? path.slice(dot)}`;
}
