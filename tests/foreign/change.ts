/** Whether entries can be changed in an open format and made to fit again: what comes back is compared with the change. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { ALL_CONVERTERS } from '../../src/cli/convert-entry';
import { convertEntry, fitEntry, type EntryToConvert } from '../../src/core/forms';
import type { Kind } from '../../src/core/game';

interface Change {
  /** The open format that the entry is changed in. */
  readonly as: string;
  change(bytes: Uint8Array): Promise<Uint8Array>;
  /** @returns what differs from the change; undefined when it came back as it was meant */
  differs(meant: Uint8Array, back: Uint8Array): Promise<string | undefined>;
}

/** Peak signal-to-noise ratio that block compression, palettes and JPEG keep of a mirrored picture, in dB. */
const LEAST_DECIBELS = 22;
/** Codecs of sounds add or leave out the rest of a block, in seconds. */
const MOST_SECONDS_OFF = 0.15;

const pixelsOf = (png: Uint8Array) => sharp(png).ensureAlpha().raw().toBuffer({ resolveWithObject: true });

const CHANGES: Partial<Record<Kind, Change>> = {
  picture: {
    as: 'png',
    change: (png) => sharp(png).flop().png().toBuffer(),
    async differs(meant, back) {
      const [a, b] = [await pixelsOf(meant), await pixelsOf(back)];
      if (a.info.width !== b.info.width || a.info.height !== b.info.height)
        return `${b.info.width} × ${b.info.height} instead of ${a.info.width} × ${a.info.height}`;
      let sum = 0;
      for (let i = 0; i < a.data.length; i += 4) {
        // What cannot be seen may have any colour.
        if (a.data[i + 3] === 0 && b.data[i + 3] === 0) continue;
        for (let c = 0; c < 4; c++) sum += (a.data[i + c]! - b.data[i + c]!) ** 2;
      }
      const decibels = 10 * Math.log10((255 ** 2 * a.data.length) / Math.max(1, sum));
      return decibels < LEAST_DECIBELS ? `${decibels.toFixed(1)} dB` : undefined;
    },
  },
  sound: {
    as: 'wav',
    change: (wav) => Promise.resolve(reversed(wav)),
    differs(meant, back) {
      const [a, b] = [meant, back].map(secondsOf) as [number, number];
      return Promise.resolve(Math.abs(a - b) > MOST_SECONDS_OFF ? `${b} s instead of ${a} s` : undefined);
    },
  },
  mesh: {
    as: 'glb',
    change: narrowed,
    async differs(meant, back) {
      const [a, b] = [await extentsOf(meant), await extentsOf(back)];
      const size = Math.max(1e-6, ...a.map(Math.abs));
      return a.some((value, i) => Math.abs(value - b[i]!) > size / 50) ? `it reaches ${b} instead of ${a}` : undefined;
    },
  },
  font: {
    as: 'woff2',
    change: (font) => Promise.resolve(font),
    differs: (meant, back) =>
      Promise.resolve(meant.length === back.length ? undefined : `${back.length} bytes instead of ${meant.length}`),
  },
};

export const isChanged = (kind: Kind): boolean => CHANGES[kind] !== undefined;

/**
 * Takes the entry out, changes it and makes it fit.
 *
 * @returns the files that take its place; undefined when its form has no open format that it can come back in
 * @throws Error that says what came back otherwise than it was meant; FaultError or FormatError when it cannot be made to fit
 */
export async function changed(
  entry: EntryToConvert,
  kind: Kind,
): Promise<readonly { readonly path: string; readonly bytes: Uint8Array }[] | undefined> {
  const one = CHANGES[kind];
  if (one === undefined) return undefined;
  const open = await openForm(entry, one.as);
  if (open === undefined) return undefined;
  const meant = await one.change(open);
  const fitted = await fitEntry(entry, { bytes: meant, fileName: `changed.${one.as}` }, ALL_CONVERTERS);
  if (fitted === undefined) throw new Error(`${entry.path}: nothing makes a .${one.as} file fit`);
  const next = new Map(fitted.files.map(({ path, bytes }) => [path, bytes]));
  const bytes = next.get(entry.path) ?? (await entry.bytes());
  const companion = async (path: string) => next.get(path) ?? entry.companion(path);
  const back = await openForm({ ...entry, head: bytes.subarray(0, 512), bytes: async () => bytes, companion }, one.as);
  const wrong = back === undefined ? 'it is of another form' : await one.differs(meant, back);
  if (wrong !== undefined) throw new Error(`${entry.path} comes back otherwise than it was changed: ${wrong}`);
  return fitted.files;
}

/** The entry in an open format; as it is, where it has that format already. */
async function openForm(entry: EntryToConvert, as: string): Promise<Uint8Array | undefined> {
  if (entry.path.toLowerCase().endsWith(`.${as}`)) return entry.bytes();
  return (await convertEntry(entry, [as], ALL_CONVERTERS))?.bytes;
}

function reversed(wav: Uint8Array): Uint8Array {
  return asFile(wav, (from, folder) => {
    const to = join(folder, 'to.wav');
    execFileSync('ffmpeg', ['-v', 'error', '-i', from, '-af', 'areverse', to]);
    return readFileSync(to);
  });
}

function secondsOf(wav: Uint8Array): number {
  const args = ['-v', 'error', '-show_entries', 'format=duration', '-of', 'csv=p=0'];
  return asFile(wav, (from) => Number(execFileSync('ffprobe', [...args, from]).toString()));
}

function asFile<T>(wav: Uint8Array, use: (path: string, folder: string) => T): T {
  const folder = mkdtempSync(join(tmpdir(), 'foreign-'));
  try {
    const path = join(folder, 'from.wav');
    writeFileSync(path, wav);
    return use(path, folder);
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const positionsOf = async (glb: Uint8Array) => {
  const document = await new WebIO().readBinary(glb);
  const primitives = document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives());
  return { document, positions: [...new Set(primitives.map((one) => one.getAttribute('POSITION')!))] };
};

/** The mesh at half its width: triangles keep their sides. */
async function narrowed(glb: Uint8Array): Promise<Uint8Array> {
  const { document, positions } = await positionsOf(glb);
  for (const accessor of positions)
    accessor.setArray(accessor.getArray()!.map((value, i) => (i % 3 === 0 ? value / 2 : value)));
  return new WebIO().writeBinary(document);
}

/** The least and the greatest coordinate on each axis. */
async function extentsOf(glb: Uint8Array): Promise<number[]> {
  const { positions } = await positionsOf(glb);
  const least = [0, 1, 2].map((axis) => Math.min(...positions.map((one) => one.getMin([])[axis]!)));
  return [...least, ...[0, 1, 2].map((axis) => Math.max(...positions.map((one) => one.getMax([])[axis]!)))];
}
