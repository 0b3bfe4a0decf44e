/** Films, meshes, words and records: each against a program that does the like. */
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeLex } from '../../demo/archives/lex';
import { writeMesh, type Vertex } from '../../demo/archives/mesh';
import { writeReel } from '../../demo/archives/reel';
import { film as demoFilm } from '../../demo/assets';
import { bufferSource } from '../../src/core/bytes';
import { filmOf } from '../../src/core/forms/film';
import { inspectMesh, readRecipeMesh, writeGlb, writeStl } from '../../src/core/forms/mesh';
import { readRecords } from '../../src/core/forms/records';
import { wordTable } from '../../src/core/forms/words';
import { compileRecipe, openArchive } from '../../src/core/recipe';
import { packetReader } from '../../src/server/forms/film/film-source';
import { pictureCodec } from '../../src/server/forms/film/picture-codecs';
import { input, runFfmpeg } from '../../src/programs';
import { say, seconds, type Row } from './table';

const recipe = (id: string) => compileRecipe(readFileSync(join(__dirname, '../../recipes', `${id}.yaml`), 'utf8'));
const ROWS = 100_000;
const count = (value: number) => value.toLocaleString('en');

export async function measureForms(work: string): Promise<Row[]> {
  return [await filmRow(work), await meshRow(work), await wordsRow(work), await recordsRow()];
}

const WANTED = ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18', '-pix_fmt', 'yuv420p', '-f', 'mp4'];

/** The pictures of a film of packets as MP4: ours unlocks and unpacks them on the way. */
async function filmRow(work: string): Promise<Row> {
  const { streams, packets } = await demoFilm();
  const pictures = packets.filter(({ stream }) => stream === 0);
  const many = Array.from({ length: 960 }, (_, i) => ({
    ...pictures[i % pictures.length]!,
    time: Math.round((i * 1000) / 12),
  }));
  const [salt, secret] = [Buffer.alloc(16, 1), Buffer.alloc(12, 2)];
  const source = bufferSource(writeReel(streams, many, salt, secret), 'bench.reel');
  many.forEach(({ bytes }, i) => writeFileSync(join(work, `frame-${String(i).padStart(5, '0')}.png`), bytes));
  const archive = await openArchive(recipe('scene-reel'), source, { keys: new Map([['reel', secret]]) });
  const stream = filmOf(archive)!.streams[0]!;
  const { signal } = new AbortController();
  const ours = await seconds(() =>
    runFfmpeg({
      args: ['-f', 'image2pipe', '-framerate', '12', ...input('pipe:0'), ...WANTED, join(work, 'ours.mp4')],
      ...{ file: 'bench.reel', signal, feed: pictureCodec(stream).read(stream, packetReader(archive, new Map())).feed },
    }),
  );
  const theirs = await seconds(() =>
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-y', '-framerate', '12', '-i', join(work, 'frame-%05d.png')],
      ...WANTED,
      join(work, 'theirs.mp4'),
    ]),
  );
  return {
    ...{ what: 'a film of packets to MP4', on: `${many.length} pictures of 320 × 180, RC4` },
    ...{ ours: say(ours), tool: 'ffmpeg, from PNG files', theirs: say(theirs), ratio: theirs / ours, bar: '' },
  };
}

/** Read, inspected and written as GLB; the other reads the same triangles and checks them. */
async function meshRow(work: string): Promise<Row> {
  const [across, down, parts] = [250, 125, 8];
  const sheet = (part: number) => {
    const vertices: Vertex[] = [];
    const indices: number[] = [];
    for (let y = 0; y <= down; y++)
      for (let x = 0; x <= across; x++)
        vertices.push({
          position: [x / 10, Math.sin(x / 9) * Math.cos(y / 7), y / 10 + part * 13],
          ...{ normal: [0, 1, 0], uv: [x / across, y / down], joint: 0 },
        });
    for (let y = 0; y < down; y++)
      for (let x = 0; x < across; x++) {
        const at = y * (across + 1) + x;
        indices.push(at, at + across + 1, at + 1, at + 1, at + across + 1, at + across + 2);
      }
    return { material: 0, vertices, indices };
  };
  const levels = [{ from: 0, parts: Array.from({ length: parts }, (_, i) => sheet(i)) }];
  const bytes = writeMesh({ materials: [{ name: 'a', textures: [] }], joints: [], levels });
  const model = recipe('post-mesh');
  const ours = await seconds(async () => {
    const { mesh } = await readRecipeMesh(model, [bufferSource(bytes, 'bench.mesh')]);
    inspectMesh(mesh.levels[0]!.parts);
    await writeGlb('bench', mesh);
  });
  const { mesh } = await readRecipeMesh(model, [bufferSource(bytes, 'bench.mesh')]);
  const stl = join(work, 'bench.stl');
  writeFileSync(stl, writeStl(mesh, 1));
  const theirs = await seconds(() => execFileSync('admesh', [stl]));
  return {
    ...{ what: 'a mesh read, inspected, to glTF', on: `${count(across * down * 2 * parts)} triangles` },
    ...{
      ours: say(ours),
      tool: 'admesh, reading and checking STL',
      theirs: say(theirs),
      ratio: theirs / ours,
      bar: '',
    },
  };
}

/** A table of texts opened and read whole. */
async function wordsRow(work: string): Promise<Row> {
  const rows = Object.fromEntries(
    Array.from({ length: ROWS }, (_, i) => [`line.${i}`, `The cabin number ${i} leaves at ${i % 24}:00.`]),
  );
  const bytes = writeLex('en', rows);
  const lex = recipe('lex-words');
  const ours = await seconds(async () => {
    await wordTable(await openArchive(lex, bufferSource(bytes, 'en.lex')));
  });
  const po = join(work, 'bench.po');
  const head = 'msgid ""\nmsgstr "Content-Type: text/plain; charset=UTF-8\\n"\n\n';
  const entries = Object.entries(rows).map(([key, text]) => `msgctxt "${key}"\nmsgid "${text}"\nmsgstr "${text}"\n`);
  writeFileSync(po, head + entries.join('\n'));
  const theirs = await seconds(() => execFileSync('msgfmt', ['-o', '/dev/null', po]));
  return {
    ...{ what: 'a table of texts read', on: `${count(ROWS)} rows` },
    ...{ ours: say(ours), tool: 'msgfmt on the same', theirs: say(theirs), ratio: theirs / ours, bar: '' },
  };
}

/** Rows of records told from their lines; the other reads the lines and tells nothing. */
async function recordsRow(): Promise<Row> {
  const lines = Array.from({ length: ROWS }, (_, i) =>
    JSON.stringify({
      id: i,
      from: 'Upper Fernegg',
      to: 'Belvarde',
      grams: i % 9000,
      fragile: i % 3 === 0,
      switches: [i % 60, 7],
    }),
  );
  const bytes = Buffer.from(lines.join('\n'));
  const ours = await seconds(() => readRecords(bytes, 'bench.jsonl'));
  const theirs = await seconds(() =>
    bytes
      .toString()
      .split('\n')
      .map((line) => JSON.parse(line) as unknown),
  );
  return {
    ...{ what: 'records gathered from JSON lines', on: `${count(ROWS)} rows` },
    ...{ ours: say(ours), tool: 'JSON.parse of each line', theirs: say(theirs), ratio: theirs / ours, bar: '' },
  };
}
