/** Everything the demo game is made of, from code and seeds alone. */
import { models } from './models';
import { cabin, frame, icon, interior, LIVERY_COLOURS, station } from './pictures';
import { randomFor } from './random';
import { signs } from './signs';
import { tannoy, weather } from './sounds';
import { captions, LANGUAGES, letter, parcel, timetable, titleScene } from './words';

export { film } from './film';
export { fonts } from './fonts';
export { freight, freightPool } from './freight';
export { journal } from './journal';
export { valley } from './level';
export { parcels } from './parcels';
export { props } from './props';
export { randomFor } from './random';
export { stock } from './stock';
export { voices } from './voices';
export { LANGUAGE_FACTS, LANGUAGES, wordTable } from './words';
export { worldAreas } from './world';

export interface Asset {
  readonly path: string;
  readonly bytes: Buffer;
  readonly deleted?: boolean;
}

const TANNOY = [
  'doors_closing',
  'crane_start',
  'crane_stop',
  'crane_warn',
  'last_cabin',
  'wind_warning',
  'parcel_waiting',
  'gate_open',
];

/** The assets in the order of their paths. `build` changes a few of them, so that updates can be practised. */
export async function makeAssets(build: string): Promise<Asset[]> {
  const made: Promise<Asset>[] = [];
  const add = (path: string, bytes: Promise<Buffer> | Buffer | string) =>
    made.push(Promise.resolve(bytes).then((ready) => ({ path, bytes: Buffer.from(ready) })));
  const colours = Object.entries(LIVERY_COLOURS);
  for (let i = 1; i <= 24; i++) {
    const number = String(i).padStart(2, '0');
    const [name, colour] = i === 7 ? (['red', LIVERY_COLOURS.red] as const) : colours[(i - 1) % colours.length]!;
    const seed = `cabin${i}${i === 4 ? build : ''}`;
    add(`cabins/livery/cabin_${number}_${name}.png`, cabin(colour, randomFor(seed), false));
    add(`cabins/livery/winter/cabin_${number}_snow.png`, cabin(colour, randomFor(seed), true));
    add(`cabins/frames/frame_${number}.png`, frame(randomFor(`frame${i}`)));
  }
  for (let i = 1; i <= 20; i++)
    add(`cabins/interiors/interior_${String(i).padStart(2, '0')}.png`, interior(randomFor(`interior${i}`)));
  for (let i = 1; i <= 16; i++) {
    const name = `station_${String(i).padStart(2, '0')}`;
    add(`stations/${name}/view.png`, station(randomFor(name)));
    add(`stations/${name}/timetable.json`, timetable(name, randomFor(`times${name}${i === 3 ? build : ''}`)));
  }
  for (let i = 1; i <= 30; i++) add(`ui/icons/icon_${String(i).padStart(2, '0')}.png`, icon(randomFor(`icon${i}`)));
  for (const name of TANNOY) add(`tannoy/${name}.wav`, tannoy(randomFor(name)));
  for (let i = 9; i <= 32; i++) add(`tannoy/call_${String(i).padStart(2, '0')}.wav`, tannoy(randomFor(`call${i}`)));
  for (let i = 1; i <= 10; i++)
    add(
      `weather/${i % 2 === 0 ? 'rain' : 'wind'}_${String(i).padStart(2, '0')}.wav`,
      weather(randomFor(`weather${i}`)),
    );
  for (let i = 1; i <= 60; i++)
    add(`parcels/parcel_${String(i).padStart(3, '0')}.json`, parcel(i, randomFor(`parcel${i}`)));
  for (let i = 1; i <= 40; i++)
    add(
      `letters/${i % 2 === 0 ? 'sent' : 'received'}/letter_${String(i).padStart(2, '0')}.txt`,
      letter(randomFor(`letter${i}`)),
    );
  for (const language of LANGUAGES) add(`words/${language}/captions.txt`, captions(language));
  add('scenes/title.json', titleScene());
  for (const { path, bytes } of await models()) add(path, Buffer.from(bytes));
  const sheet = await signs();
  add(sheet.path, Buffer.from(sheet.bytes));
  const assets = await Promise.all(made);
  return assets.sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** The spring update of the game: liveries without snow, new ones, and markers for what has gone. */
export async function springAssets(): Promise<Asset[]> {
  const fresh = [3, 5, 9].map(async (i): Promise<Asset> => {
    const name = `cabin_${String(i).padStart(2, '0')}`;
    const path = `cabins/livery/spring/${name}_blossom.png`;
    return { path, bytes: await cabin(LIVERY_COLOURS.moss, randomFor(path), false) };
  });
  const notice = 'The winter service has ended. The last sledges are in the depot.\n';
  const gone = ['letters/sent/letter_02.txt', 'letters/sent/letter_04.txt'];
  return [
    ...(await Promise.all(fresh)),
    { path: 'letters/sent/letter_06.txt', bytes: Buffer.from(notice) },
    ...gone.map((path): Asset => ({ path, bytes: Buffer.alloc(0), deleted: true })),
  ];
}
