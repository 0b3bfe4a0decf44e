/** What the game loads besides its holds: the world, props, voices, parcels, stock, films and words. */
import { checkJson, checkPicture } from './content-rules';
import { readCrate } from './crate-reader';
import { readCues, type VoiceCue } from './cue-reader';
import { loadJournal, loadLevels } from './loose-files';
import { readLex, readLexMeta, type Words } from './lex-reader';
import { findFile, mounted, type GameFile, type GameKeys } from './mount';
import { readReel, type FilmStream } from './reel-reader';
import { LoadStop, type Film, type Finding } from './report';
import { readSet } from './set-reader';
import { readStock } from './stock-reader';
import { readWorld, type World } from './world-reader';

export interface Loading {
  readonly folders: readonly string[];
  readonly keys: GameKeys;
  /** Something is seen or heard in the game, and does not stop it. */
  note(finding: Omit<Finding, 'severity'>): void;
  /** A file was loaded, with so many entries. */
  loaded(file: GameFile, entries: number): void;
  /** A cue can be heard, under the path that people know it by. */
  heard(path: string, file: string, cue: VoiceCue): void;
  /** A film can be played. */
  filmed(film: Film): void;
}

/** What each part of the game loads. @returns how many entries; a part whose archives are not there loads nothing */
export const PARTS: readonly [what: string, load: (loading: Loading) => number][] = [
  ['Laid out the world', loadWorld],
  ['Placed the props', loadProps],
  ['Tuned the voices', loadVoices],
  ['Opened the parcels', loadParcels],
  ['Filled the shelves', loadStock],
  ['Threaded the films', loadFilms],
  ['Learnt the words', loadWords],
  ['Read the journal', loadJournal],
  ['Laid out the levels', loadLevels],
];

const beside = (folders: readonly string[], { file }: GameFile, ending: string, to: string) =>
  findFile(folders, file.slice(0, -ending.length) + to);

function loadWorld({ folders, loaded }: Loading): number {
  const worlds = mounted(folders, '.idx').map((file) => {
    const world = readWorld(file.file, file.bytes, (number) =>
      beside(folders, file, '.idx', `.${String(number).padStart(3, '0')}`),
    );
    loaded(file, world.hashes.length);
    return world;
  });
  if (worlds.length === 0) return 0;
  const found = (path: string) => {
    for (const world of [...worlds].reverse()) {
      const bytes = world.bytes(path);
      if (bytes !== undefined) return { file: world.file, bytes };
    }
    return missing(worlds[0]!, path);
  };
  let count = 0;
  for (const area of ['valley', 'slope', 'summit']) {
    const places = `world/${area}/places.json`;
    const { file, bytes } = found(places);
    const plan = checkJson(file, places, bytes) as { side: number; tiles: string[] };
    for (const tile of plan.tiles) {
      const heights = found(`${tile}.height`);
      checkHeights(heights.file, `${tile}.height`, heights.bytes, 33);
      const map = found(`${tile}.png`);
      checkPicture(map.file, `${tile}.png`, map.bytes, 64, 64);
      count += 2;
    }
    const whole = found(`world/${area}/whole.height`);
    checkHeights(whole.file, `world/${area}/whole.height`, whole.bytes, plan.side * 32 + 1);
    count += 2;
  }
  return count;
}

function missing(world: World, path: string): never {
  throw new LoadStop({
    code: 'WORLD-MISSING',
    file: world.file,
    entry: path,
    offset: 0,
    rule: 'What the world names is there.',
    found: 'nothing',
  });
}

function checkHeights(file: string, entry: string, bytes: Buffer, side: number): void {
  if (bytes.length === side * side * 2) return;
  const rule = `Heights are ${side} × ${side} numbers of two bytes.`;
  throw new LoadStop({ code: 'WORLD-HEIGHTS', file, entry, offset: 0, rule, found: `${bytes.length} bytes` });
}

function loadProps({ folders, loaded }: Loading): number {
  const props = new Map<bigint, string>();
  for (const file of mounted(folders, '.crate')) {
    const objects = readCrate(file.file, file.bytes, findFile(folders, `${file.file}.bulk`));
    loaded(file, objects.length);
    for (const { id, type, name, bytes } of objects) {
      const entry = `${type}/${name}`;
      props.set(id, entry);
      if (type === 'picture') checkPicture(file.file, entry, bytes, 128, 128);
      else if (type === 'material' || type === 'layout') checkJson(file.file, entry, bytes);
      else
        throw new LoadStop({
          code: 'CRATE-TYPE',
          file: file.file,
          entry,
          offset: 0,
          rule: 'A prop is a material, a picture or a layout.',
          found: type,
        });
    }
  }
  return props.size;
}

function loadVoices({ folders, keys, note, loaded, heard }: Loading): number {
  const spoken = new Map<string, Map<number, string>>();
  for (const file of mounted(folders, '.cue')) {
    const { locale, cues } = readCues(file.file, file.bytes, beside(folders, file, '.cue', '.wax'), keys.voices);
    loaded(file, cues.length);
    const known = spoken.get(locale) ?? new Map<number, string>();
    for (const cue of cues) {
      known.set(cue.number, file.file);
      heard(`voices/${locale}/cue_${String(cue.number).padStart(4, '0')}.${cue.codec}`, file.file, cue);
    }
    spoken.set(locale, known);
  }
  for (const [locale, cues] of spoken) {
    for (const [number] of spoken.get('en') ?? [])
      if (!cues.has(number))
        note({
          code: 'CUE-MISSING',
          file: [...cues.values()][0] ?? `voices.${locale}.cue`,
          offset: 0,
          rule: 'A cue that is not spoken in a language is heard in English.',
          found: `no cue ${number} in ${locale}`,
        });
  }
  return [...spoken.values()].reduce((sum, cues) => sum + cues.size, 0);
}

function loadParcels({ folders, loaded }: Loading): number {
  const names = new Set<string>();
  for (const file of mounted(folders, '.set')) {
    const parcels = readSet(file.file, file.bytes);
    loaded(file, parcels.length);
    for (const { name, files } of parcels) {
      names.add(name);
      for (const [path, bytes] of files) {
        if (path.endsWith('.png')) checkPicture(file.file, `${name}/${path}`, bytes, 64, 64);
        if (path.endsWith('.json')) checkJson(file.file, `${name}/${path}`, bytes);
      }
    }
  }
  return names.size;
}

function loadStock({ folders, loaded }: Loading): number {
  const paths = new Set<string>();
  for (const file of mounted(folders, '.toc')) {
    const packages = readStock(file.file, file.bytes, beside(folders, file, '.toc', '.cache'));
    loaded(file, packages.length);
    for (const { path, bytes } of packages) {
      checkJson(file.file, path, bytes);
      paths.add(path);
    }
  }
  return paths.size;
}

function loadFilms({ folders, keys, loaded, filmed }: Loading): number {
  let count = 0;
  for (const file of mounted(folders, '.reel')) {
    const streams = readReel(file.file, file.bytes, keys.reel);
    const packets = streams.reduce((sum, stream) => sum + stream.packets.length, 0);
    loaded(file, packets);
    count += packets;
    for (const { codec, width, height, packets: own } of streams)
      for (const { time, bytes } of own)
        if (codec === 'PNGF') checkPicture(file.file, `the frame at ${time} ms`, bytes, width, height);
    const film = filmOf(file.file, streams);
    if (film !== undefined) filmed(film);
  }
  return count;
}

/** What is seen, heard and read of a film; undefined when it has no pictures. */
function filmOf(file: string, streams: readonly FilmStream[]): Film | undefined {
  const pictures = streams.find(({ codec }) => codec === 'PNGF');
  if (pictures === undefined) return undefined;
  const sound = streams.find(({ codec }) => codec === 'PCM1');
  const pcm = Buffer.concat(sound?.packets.map(({ bytes }) => bytes) ?? []);
  const texts = streams.filter(({ codec }) => codec === 'UTF8');
  return {
    file,
    rate: pictures.rate,
    frames: pictures.packets.map(({ bytes }) => bytes),
    soundRate: sound?.rate ?? 0,
    samples: Int16Array.from({ length: pcm.length >> 1 }, (_, i) => pcm.readInt16LE(i * 2)),
    subtitles: new Map(
      texts.map(({ locale, packets }) => [
        locale,
        packets.map(({ time, bytes }) => ({ time, text: bytes.toString('utf8') })),
      ]),
    ),
  };
}

function loadWords({ folders, note, loaded }: Loading): number {
  const meta = findFile(folders, 'words/lex.meta');
  const byLocale = new Map<string, Words[]>();
  let count = 0;
  for (const file of mounted(folders, '.lex', 'words')) {
    const words = readLex(file.file, file.bytes);
    loaded(file, words.texts.size);
    count += words.texts.size;
    byLocale.set(words.locale, [...(byLocale.get(words.locale) ?? []), words]);
  }
  if (meta === undefined) return count;
  const languages = readLexMeta(meta.file, meta.bytes);
  loaded(meta, languages.size);
  const keysOf = (locale: string) => new Set((byLocale.get(locale) ?? []).flatMap(({ texts }) => [...texts.keys()]));
  for (const [locale, { fallback }] of languages) {
    const stop = (rule: string, found: string): never => {
      throw new LoadStop({ code: 'LEX-LANGUAGE', file: meta.file, entry: `${locale}.txt`, offset: 0, rule, found });
    };
    if (!byLocale.has(locale)) stop('A language of the menu has words.', `no words of ${locale}`);
    if (fallback !== '' && !languages.has(fallback)) stop('A fallback is a language of the menu.', fallback);
    const own = keysOf(locale);
    for (const key of keysOf('en')) {
      if (own.has(key)) continue;
      const rule = 'A text that is missing is shown in the fallback.';
      note({ code: 'LEX-MISSING', file: byLocale.get(locale)![0]!.file, offset: 0, rule, found: `no ${key}` });
    }
  }
  return count;
}
