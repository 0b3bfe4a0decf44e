/** WAD files made in tests, and read as an engine reads them: by their directory, and column by column. */
import { ByteBuilder } from '../demo/archives/byte-builder';

/** Colours with two that are the same: numbers 7 and 8. */
export const PALETTE = Buffer.from(
  Array.from({ length: 256 }, (_, i) => (i === 8 ? 7 : i)).flatMap((i) => [i, (i * 7) & 255, 255 - i]),
);

/** The number of a colour for each pixel; undefined where it is not drawn. */
export type Drawn = readonly (number | undefined)[];

export function wad(magic: 'IWAD' | 'PWAD', lumps: readonly (readonly [name: string, bytes: Uint8Array])[]): Buffer {
  const rows = new ByteBuilder();
  let at = 12;
  for (const [name, { length }] of lumps) {
    rows
      .u32(at)
      .u32(length)
      .raw(Buffer.from(name.padEnd(8, '\0')));
    at += length;
  }
  const head = new ByteBuilder().raw(Buffer.from(magic)).u32(lumps.length).u32(at);
  return Buffer.concat([head.bytes(), ...lumps.map(([, bytes]) => bytes), rows.bytes()]);
}

/** Names and bytes of its lumps in order. */
export function lumpsOf(file: Uint8Array): (readonly [name: string, bytes: Buffer])[] {
  const bytes = Buffer.from(file);
  const [count, at] = [bytes.readUInt32LE(4), bytes.readUInt32LE(8)];
  return Array.from({ length: count }, (_, i) => {
    const row = bytes.subarray(at + i * 16, at + i * 16 + 16);
    const [from, size] = [row.readUInt32LE(0), row.readUInt32LE(4)];
    return [row.subarray(8).toString('latin1').replace(/\0+$/, ''), bytes.subarray(from, from + size)] as const;
  });
}

/** Draws as the engine does: each column from its offset on, until a post begins with 255. */
export function drawnBy(file: Uint8Array): { width: number; height: number; drawn: Drawn } {
  const bytes = Buffer.from(file);
  const [width, height] = [bytes.readUInt16LE(0), bytes.readUInt16LE(2)];
  const drawn = new Array<number | undefined>(width * height).fill(undefined);
  for (let x = 0; x < width; x++) {
    let at = bytes.readUInt32LE(8 + 4 * x);
    let top = -1;
    while (bytes.readUInt8(at) !== 255) {
      const told = bytes.readUInt8(at);
      // Tall pictures: what is not below the last post counts from it.
      top = told <= top ? top + told : told;
      const count = bytes.readUInt8(at + 1);
      for (let y = 0; y < count; y++) drawn[(top + y) * width + x] = bytes.readUInt8(at + 3 + y);
      at += count + 4;
    }
  }
  return { width, height, drawn };
}

/** A picture as the engine's tools pack it: a post for each run of pixels. */
export function packed(width: number, height: number, drawn: Drawn): Buffer {
  const columns: Buffer[] = [];
  for (let x = 0; x < width; x++) {
    const out: number[] = [];
    for (let y = 0; y < height; y++) {
      const colours: number[] = [];
      for (let i = y; i < height && drawn[i * width + x] !== undefined && colours.length < 100; i++)
        colours.push(drawn[i * width + x]!);
      if (colours.length === 0) continue;
      out.push(y, colours.length, 0, ...colours, 0);
      y += colours.length - 1;
    }
    columns.push(Buffer.from([...out, 255]));
  }
  const head = new ByteBuilder().u16(width).u16(height).u16(3).u16(height);
  let at = 8 + 4 * width;
  for (const column of columns) {
    head.u32(at);
    at += column.length;
  }
  return Buffer.concat([head.bytes(), ...columns]);
}
