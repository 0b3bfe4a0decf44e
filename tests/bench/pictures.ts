/**
 * Pictures: unpacking against ffmpeg, fitting blocks against the cluster fit of ImageMagick (Debian's `imagemagick`), and a
 * thousand of them in one go on every core.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { Piscina } from 'piscina';
import sharp from 'sharp';
import { cabin, station } from '../../demo/assets/pictures';
import { randomFor } from '../../demo/assets/random';
import {
  findPixelFormat,
  packPicture,
  pictureError,
  readDds,
  unpackLevel,
  writeDds,
} from '../../src/core/forms/picture';
import type { Pixels, Quality } from '../../src/core/forms/picture';
import { packPixels } from '../../src/core/forms/picture/pack';
import type { PictureAsOrder } from '../../src/workers/pool-thread';
import { say, seconds, type Row } from './table';

const SIDE = 4096;
const FIT_SIDE = 512;
const CONVERT = '/usr/bin/convert';
const MANY = 1000;
const MANY_SIDE = 256;

export async function measurePictures(work: string): Promise<Row[]> {
  return [...(await unpacking(work)), ...(await fitting(work)), await manyToPng()];
}

/** A photograph in kind: soft light and grain, no two blocks alike. */
async function photograph(side: number): Promise<Pixels> {
  const grain = Buffer.alloc(side * side * 4);
  let state = 0x2545f491;
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
      const at = (y * side + x) * 4;
      const light = 110 + 70 * Math.sin(x / 90) * Math.cos(y / 70) + (state >>> 27);
      grain[at] = light;
      grain[at + 1] = light * 0.8 + 30 * Math.sin((x + y) / 50);
      grain[at + 2] = 200 - light / 2;
      grain[at + 3] = 255;
    }
  return { width: side, height: side, rgba: new Uint8Array(grain) };
}

async function drawing(side: number): Promise<Pixels> {
  const parts = [await cabin('#a23b2c', randomFor('bench'), false), await station(randomFor('bench'))];
  const rgba = await sharp({ create: { width: side, height: side, channels: 4, background: '#cfdde2' } })
    .composite(parts.map((input, i) => ({ input, left: i * 180, top: i * 200 })))
    .removeAlpha()
    .ensureAlpha()
    .raw()
    .toBuffer();
  return { width: side, height: side, rgba: new Uint8Array(rgba) };
}

async function unpacking(work: string): Promise<Row[]> {
  const rows: Row[] = [];
  const small = await photograph(FIT_SIDE);
  for (const name of ['bc1', 'bc3', 'bc7']) {
    const format = findPixelFormat(name)!;
    // One picture over and over: fitting one of that size would take longer than all that is measured.
    const tile = packPixels(format, small, 'fast');
    const level = new Uint8Array((tile.length * (SIDE / FIT_SIDE) ** 2) | 0);
    for (let at = 0; at < level.length; at += tile.length) level.set(tile, at);
    const facts = { width: SIDE, height: SIDE, depth: 1, layers: 1, faces: 1 as const, mips: 1, srgb: true };
    const picture = { ...facts, format, levels: [level] };
    const ours = await seconds(() => unpackLevel(picture, { mip: 0 }));
    const path = join(work, `${name}.dds`);
    writeFileSync(path, writeDds(picture));
    const decode = ['-v', 'error', '-threads', '1', '-i', path, '-f', 'null', '-'];
    const theirs = name === 'bc7' ? undefined : await seconds(() => execFileSync('ffmpeg', decode));
    rows.push({
      ...{ what: `unpack ${format.title}`, on: `${SIDE} × ${SIDE}`, ours: say(ours) },
      tool: theirs === undefined ? 'no tool here reads it' : 'ffmpeg, one thread',
      theirs: theirs === undefined ? '' : say(theirs),
      ...{ ratio: theirs === undefined ? NaN : theirs / ours, bar: theirs === undefined ? '' : '1' },
    });
    rmSync(path);
  }
  return rows;
}

async function fitting(work: string): Promise<Row[]> {
  if (!existsSync(CONVERT)) {
    process.stdout.write(`${CONVERT} is not there: fitting blocks is not compared (apt-get install imagemagick)\n`);
    return [];
  }
  const rows: Row[] = [];
  const shown = { photograph: await photograph(FIT_SIDE), drawing: await drawing(FIT_SIDE) };
  for (const [kind, pixels] of Object.entries(shown)) {
    const raw = { width: FIT_SIDE, height: FIT_SIDE, channels: 4 as const };
    const png = join(work, 'in.png');
    const dds = join(work, 'out.dds');
    writeFileSync(png, await sharp(pixels.rgba, { raw }).png().toBuffer());
    for (const [name, code] of [
      ['bc1', 'dxt1'],
      ['bc3', 'dxt5'],
    ] as const) {
      const format = findPixelFormat(name)!;
      const define = (text: string) => ['-define', `dds:${text}`];
      const args = [png, ...define(`compression=${code}`), ...define('cluster-fit=true'), ...define('mipmaps=0'), dds];
      const theirTime = await seconds(() => execFileSync(CONVERT, args), 1);
      const theirs = pictureError(unpackLevel(readDds(readFileSync(dds), 'a'), { mip: 0 }), pixels).decibels;
      for (const quality of ['fast', 'best'] as const) {
        const { time, decibels } = await fitted(pixels, name, quality);
        rows.push({
          what: `fit ${format.title}, ${quality}`,
          on: `a ${kind} of ${FIT_SIDE} × ${FIT_SIDE}`,
          ours: `${decibels.toFixed(2)} dB in ${say(time)}`,
          tool: 'cluster fit of ImageMagick',
          theirs: `${theirs.toFixed(2)} dB in ${say(theirTime)}`,
          ratio: theirTime / time,
          bar: quality === 'best' ? 'within 0.3 dB' : '',
        });
      }
    }
  }
  return rows;
}

async function fitted(pixels: Pixels, name: string, quality: Quality): Promise<{ time: number; decibels: number }> {
  const format = findPixelFormat(name)!;
  let levels: Uint8Array = new Uint8Array(0);
  const time = await seconds(() => (levels = packPixels(format, pixels, quality)), 1);
  const facts = { width: FIT_SIDE, height: FIT_SIDE, depth: 1, layers: 1, faces: 1 as const, mips: 1, srgb: true };
  const picture = { ...facts, format, levels: [levels] };
  return { time, decibels: pictureError(unpackLevel(picture, { mip: 0 }), pixels).decibels };
}

/** Against the machine's own limit: the same pixels, plain already, written as PNG by the library on as many cores. */
async function manyToPng(): Promise<Row> {
  const pixels = await photograph(MANY_SIDE);
  const texture = packPicture(pixels, findPixelFormat('bc1')!, { srgb: true, quality: 'fast' });
  const picture = { ...texture, format: texture.format.name };
  const order: PictureAsOrder = { picture, as: 'png', mip: 0, part: undefined };
  const pool = new Piscina({
    filename: join(__dirname, '..', '..', '.zero-latch', 'programs', 'pool-thread.cjs'),
    name: 'pictureAs',
    maxThreads: availableParallelism(),
  });
  const raw = { width: MANY_SIDE, height: MANY_SIDE, channels: 4 as const };
  const png = () => sharp(pixels.rgba, { raw }).png({ compressionLevel: 6, palette: false }).toBuffer();
  const lanes = async (work: () => Promise<unknown>) => {
    let left = MANY;
    const lane = async () => {
      while (left-- > 0) await work();
    };
    await Promise.all(Array.from({ length: availableParallelism() }, lane));
  };
  try {
    const ours = await seconds(() => lanes(() => pool.run(order)), 1);
    const theirs = await seconds(() => lanes(png), 1);
    const memory = `${Math.round(process.memoryUsage().rss / 2 ** 20)} MB process`;
    return {
      ...{ what: 'textures to PNG', on: `${MANY.toLocaleString('en')} of ${MANY_SIDE} × ${MANY_SIDE}, BC1` },
      ...{ ours: `${say(ours)}, ${memory}`, tool: 'writing the same PNGs from plain pixels', theirs: say(theirs) },
      ...{ ratio: theirs / ours, bar: '' },
    };
  } finally {
    await pool.destroy();
  }
}
