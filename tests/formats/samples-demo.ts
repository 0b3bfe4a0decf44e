/** The archives of the demo game, made of anything they can hold, changed, and read by the stand-in game's own readers. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { writeCrate } from '../../demo/archives/crate';
import { writeCues } from '../../demo/archives/cues';
import { writeHold } from '../../demo/archives/hold';
import { writeLex, writeLexMeta } from '../../demo/archives/lex';
import { writeParcel, writeSet } from '../../demo/archives/parcels';
import { writeReel } from '../../demo/archives/reel';
import { writeStock } from '../../demo/archives/stock';
import { writeWorld } from '../../demo/archives/world';
import { readCrate } from '../../demo/stand-in/crate-reader';
import { readCues } from '../../demo/stand-in/cue-reader';
import { readHold } from '../../demo/stand-in/hold-reader';
import { readLex, readLexMeta } from '../../demo/stand-in/lex-reader';
import { readReel } from '../../demo/stand-in/reel-reader';
import { readSet } from '../../demo/stand-in/set-reader';
import { readStock } from '../../demo/stand-in/stock-reader';
import { readWorld } from '../../demo/stand-in/world-reader';
import type { SampleEntry, SampleFile, SampleFormat } from './sample';

const recipe = (id: string) => readFileSync(join(__dirname, '../../recipes', `${id}.yaml`), 'utf8');
const key = (length: number) => createHash('sha256').update('tests').digest().subarray(0, length);

/** Any bytes, some of which pack well and some not at all. */
const content = fc.oneof(
  fc.uint8Array({ maxLength: 3000 }),
  fc.tuple(fc.nat(255), fc.nat(4000)).map(([byte, length]) => new Uint8Array(length).fill(byte)),
);

function entriesOf(path: fc.Arbitrary<string>, bytes: fc.Arbitrary<Uint8Array> = content): fc.Arbitrary<SampleEntry[]> {
  return fc.uniqueArray(fc.record({ path, bytes }), { selector: (entry) => entry.path, minLength: 1, maxLength: 12 });
}

const named = (files: readonly SampleFile[], ending: string) => {
  const found = files.find(({ name }) => name.endsWith(ending));
  return found === undefined ? undefined : { file: found.name, bytes: Buffer.from(found.bytes) };
};
const main = (files: readonly SampleFile[]) => Buffer.from(files[0]!.bytes);

/** The stand-in game's reading of the files, entry by entry, is what was meant. */
function same(found: Iterable<readonly [path: string, bytes: Uint8Array]>, wanted: ReadonlyMap<string, string>): void {
  const read = new Map([...found].map(([path, bytes]) => [path, Buffer.from(bytes).toString('hex')]));
  expect([...read].sort()).toEqual([...wanted].sort());
}

const anyEntries = entriesOf(fc.stringMatching(/^([a-z]{1,4}\/){0,2}[a-z]{1,6}\.(png|json|txt|wav|height)$/));

export const holds: SampleFormat = {
  name: 'holds, with markers for what is gone',
  recipe: recipe('hold-archive'),
  keys: { content: key(32) },
  grows: true,
  removes: true,
  some: anyEntries,
  make: (entries) => [
    { name: 'test.hold', bytes: writeHold(entries, { key: key(32), release: 'test', built: 1_700_000_000 }) },
  ],
  judge: (files, wanted) => {
    const hold = readHold('test.hold', main(files), Buffer.from(key(32)));
    same(
      hold.rows.filter(({ deleted }) => !deleted).map((row) => [row.path, hold.bytes(row)] as const),
      wanted,
    );
  },
};

export const world: SampleFormat = {
  name: 'a world: hashed names, volumes, blocks',
  recipe: recipe('world-index'),
  hashed: true,
  grows: true,
  removes: true,
  some: entriesOf(
    fc.stringMatching(/^[a-z]{1,8}\/[a-z]{1,6}\.png$/),
    fc.oneof(
      content,
      // Several blocks of 64 KiB.
      fc
        .tuple(fc.nat(255), fc.integer({ min: 60_000, max: 200_000 }))
        .map(([seed, length]) => Uint8Array.from({ length }, (_, i) => (i * seed) >> 7)),
    ),
  ),
  make: (entries) => {
    const half = Math.ceil(entries.length / 2);
    return writeWorld([entries.slice(0, half), entries.slice(half)]);
  },
  judge: (files, wanted) => {
    const read = readWorld('world.idx', main(files), (number) => named(files, `.${String(number).padStart(3, '0')}`));
    same(
      [...wanted.keys()].map((path) => [path, read.bytes(path)!] as const),
      wanted,
    );
    expect(read.hashes.length).toBe(wanted.size);
  },
};

export const crate: SampleFormat = {
  name: 'a crate of props and its bulk',
  recipe: recipe('prop-crate'),
  grows: true,
  removes: true,
  some: entriesOf(fc.stringMatching(/^props\/(material|picture|layout)\/[a-z]{1,8}$/)),
  samples: [
    { path: 'props/material/bench', bytes: Buffer.from('oak') },
    { path: 'props/picture/bench', bytes: Buffer.alloc(5000, 3) },
    { path: 'props/layout/lamp', bytes: Buffer.from('by the door') },
  ],
  make: (entries) =>
    writeCrate(
      entries.map(({ path, bytes }, i) => {
        const [, type, name] = path.split('/') as [string, string, string];
        return { type, id: BigInt(i - 3) * 1_000_003n, name, bytes };
      }),
      'test',
    ).map(({ name, bytes }) => ({ name, bytes })),
  judge: (files, wanted) =>
    same(
      readCrate(files[0]!.name, main(files), named(files, '.bulk')).map(
        ({ type, name, bytes }) => [`props/${type}/${name}`, bytes] as const,
      ),
      wanted,
    ),
};

const CUES = 'voices/en/cue_';
const CUE_BLOCK = 256;
/** Waves the codec allows: pairs of bytes, or blocks that begin with a step index. */
function fitWave(path: string, bytes: Uint8Array): Uint8Array {
  if (path.endsWith('.pcm')) return bytes.subarray(0, bytes.length - (bytes.length % 2));
  const blocks = new Uint8Array(Math.ceil(bytes.length / CUE_BLOCK) * CUE_BLOCK);
  blocks.set(bytes);
  for (let at = 0; at < blocks.length; at += CUE_BLOCK) blocks.set([0, 0, blocks[at + 2]! % 89, 0], at);
  return blocks;
}

export const cues: SampleFormat = {
  name: 'spoken cues and their wave data',
  recipe: recipe('voice-cues'),
  keys: { voices: key(8) },
  removes: true,
  some: entriesOf(
    fc
      .tuple(fc.nat(9999), fc.constantFrom('pcm', 'adpcm'))
      .map(([n, codec]) => `${CUES}${String(n).padStart(4, '0')}.${codec}`),
  ).map((entries) =>
    // A number represents one cue, and they ascend.
    [...new Map(entries.map((entry) => [entry.path.slice(0, CUES.length + 4), entry])).values()]
      .map(({ path, bytes }) => ({ path, bytes: fitWave(path, bytes) }))
      .sort((a, b) => (a.path < b.path ? -1 : 1)),
  ),
  samples: [
    { path: 'voices/en/cue_0004.pcm', bytes: Buffer.alloc(600, 9) },
    { path: 'voices/en/cue_0005.adpcm', bytes: fitWave('x.adpcm', Buffer.alloc(700, 80)) },
    { path: 'voices/en/cue_1200.pcm', bytes: Buffer.alloc(0) },
  ],
  fit: fitWave,
  make: (entries) =>
    writeCues(
      'test',
      'en',
      entries.map(({ path, bytes }) => {
        const codec = path.endsWith('.pcm') ? 0 : 1;
        const samples = codec === 0 ? bytes.length / 2 : (bytes.length / CUE_BLOCK) * 505;
        return { number: Number(path.slice(CUES.length, CUES.length + 4)), codec, rate: 22_050, samples, bytes };
      }),
      key(8),
    ),
  judge: (files, wanted) => {
    const voices = readCues('test.cue', main(files), named(files, '.wax'), Buffer.from(key(8)));
    const paths = new Map([...wanted.keys()].map((path) => [Number(path.slice(CUES.length, CUES.length + 4)), path]));
    same(
      voices.cues.map(({ number, bytes }) => [paths.get(number)!, bytes] as const),
      wanted,
    );
  },
};

const parcelOf = (bytes: Uint8Array) =>
  writeParcel('A test', [
    { path: 'thumbnail.png', bytes: bytes.subarray(0, 40) },
    { path: 'letter.txt', bytes },
  ]);

export const parcelSet: SampleFormat = {
  name: 'a set of parcels',
  recipe: recipe('parcel-set'),
  grows: true,
  removes: true,
  some: entriesOf(fc.stringMatching(/^[a-z]{1,8}\.parcel$/), content.map(parcelOf)),
  samples: [
    { path: 'one.parcel', bytes: parcelOf(Buffer.from('one')) },
    { path: 'two.parcel', bytes: parcelOf(Buffer.alloc(900, 2)) },
  ],
  make: (entries) => [{ name: 'test.set', bytes: writeSet(entries) }],
  judge: (files) => void readSet('test.set', main(files)),
};

export const parcel: SampleFormat = {
  name: 'a parcel',
  recipe: recipe('parcel'),
  grows: true,
  removes: true,
  some: anyEntries.map((entries) => [{ path: 'thumbnail.png', bytes: Buffer.from('thumb') }, ...entries]),
  make: (entries) => [{ name: 'test.parcel', bytes: writeParcel('A test', entries) }],
  judge: (files, wanted) => {
    const bytes = main(files);
    const set = writeSet([{ path: 'test.parcel', bytes }]);
    // What was taken out first is no longer a parcel for the game, and a patch is none either.
    if ([...wanted.keys()][0] !== 'thumbnail.png') return;
    const [read] = readSet('test.set', Buffer.from(set));
    same(read!.files, wanted);
  },
};

export const stock: SampleFormat = {
  name: 'a stock with times',
  recipe: recipe('stock-toc'),
  grows: true,
  removes: true,
  some: anyEntries,
  make: (entries) =>
    writeStock(entries.map(({ path, bytes }, i) => ({ path, bytes, time: 1_700_000_000_000 + i * 86_400_000 }))),
  judge: (files, wanted) =>
    same(
      readStock(files[0]!.name, main(files), named(files, '.cache')).map(({ path, bytes }) => [path, bytes] as const),
      wanted,
    ),
};

export const reel: SampleFormat = {
  name: 'a film of packets',
  recipe: recipe('scene-reel'),
  keys: { reel: key(12) },
  some: entriesOf(fc.nat(99_999).map((time) => `film/pictures/${String(time).padStart(6, '0')}.png`)).map((entries) =>
    entries.sort((a, b) => (a.path < b.path ? -1 : 1)),
  ),
  samples: [
    { path: 'film/pictures/000000.png', bytes: Buffer.from('a frame') },
    { path: 'film/pictures/000080.png', bytes: Buffer.alloc(777, 4) },
  ],
  make: (entries) => {
    const packets = entries.map(({ path, bytes }) => ({
      stream: 0,
      time: Number(/(\d+)\.png$/.exec(path)![1]),
      key: true,
      bytes,
    }));
    const stream = { kind: 'VIDP', codec: 'PNGF', locale: '', rate: 12, width: 64, height: 64 } as const;
    return [{ name: 'test.reel', bytes: writeReel([stream], packets, key(16), key(12)) }];
  },
  judge: (files, wanted) => {
    // A patch of a film is no film: the game asks for the last packet where its head says.
    const streams = readReel('test.reel', main(files), Buffer.from(key(12)));
    const packets = streams.flatMap((one) => one.packets);
    same(
      packets.map(({ time, bytes }) => [`film/pictures/${String(time).padStart(6, '0')}.png`, bytes] as const),
      wanted,
    );
  },
};

const word = fc.string({ unit: 'grapheme', maxLength: 60 }).map((text) => new Uint8Array(Buffer.from(text)));
const utf8 = (_: string, bytes: Uint8Array) => new Uint8Array(Buffer.from(Buffer.from(bytes).toString('latin1')));

export const lex: SampleFormat = {
  name: 'the words of a language',
  recipe: recipe('lex-words'),
  grows: true,
  removes: true,
  some: entriesOf(fc.stringMatching(/^words\/en\/[a-z]{1,8}\.[a-z0-9]{1,8}$/), word),
  fit: utf8,
  make: (entries) => {
    const texts = entries.map(
      ({ path, bytes }) => [path.slice('words/en/'.length), Buffer.from(bytes).toString('utf8')] as const,
    );
    return [{ name: 'test.lex', bytes: writeLex('en', Object.fromEntries(texts)) }];
  },
  samples: [
    { path: 'words/en/menu.start', bytes: Buffer.from('Start') },
    { path: 'words/en/menu.leave', bytes: Buffer.from('Für heute genug') },
    { path: 'words/en/empty.text', bytes: Buffer.alloc(0) },
  ],
  judge: (files, wanted) =>
    same(
      [...readLex('test.lex', main(files)).texts].map(
        ([path, text]) => [`words/en/${path}`, Buffer.from(text)] as const,
      ),
      wanted,
    ),
};

export const languages: SampleFormat = {
  name: 'the list of languages',
  recipe: recipe('lex-languages'),
  grows: true,
  removes: true,
  some: entriesOf(
    fc.stringMatching(/^languages\/[a-z]{2,6}\.txt$/),
    fc
      .stringMatching(/^[A-Z][a-z]{1,12}$/)
      .map((title) => new Uint8Array(Buffer.from(`title = ${title}\nfallback = en\n`))),
  ),
  samples: [{ path: 'languages/en.txt', bytes: Buffer.from('title = English\nfallback = \n') }],
  make: (entries) => {
    const list = entries.map(({ path, bytes }) => {
      const [, title, fallback] = /title = (.+)\nfallback = (.*)\n/.exec(Buffer.from(bytes).toString())!;
      return { code: path.slice('languages/'.length, -4), title: title!, fallback: fallback! };
    });
    return [{ name: 'lex.meta', bytes: writeLexMeta(list) }];
  },
  judge: (files, wanted) => {
    const read = readLexMeta('lex.meta', main(files));
    expect([...read.keys()].map((code) => `languages/${code}.txt`).sort()).toEqual([...wanted.keys()].sort());
  },
};
