/** Numbers of vertices and poses in the bytes that games keep them in. All are little- or big-endian as the file is. */
import { FormatError } from '../../faults';
import type { NumberKind } from '../../recipe';

interface NumberFormat {
  readonly bytes: number;
  read(view: DataView, at: number, little: boolean): number;
  write(view: DataView, at: number, value: number, little: boolean): void;
  /** The smallest and the largest value it keeps. */
  readonly range: readonly [number, number];
}

const whole = (bytes: 1 | 2 | 4, signed: boolean, scale: number): NumberFormat => {
  const [low, high] = signed ? [-(2 ** (bytes * 8 - 1)), 2 ** (bytes * 8 - 1) - 1] : [0, 2 ** (bytes * 8) - 1];
  const kind = `${signed ? 'Int' : 'Uint'}${bytes * 8}` as 'Int8' | 'Uint8' | 'Int16' | 'Uint16' | 'Uint32';
  const [get, set] = [`get${kind}`, `set${kind}`] as const;
  return {
    bytes,
    // The lowest value of a signed kind is one more than the highest: it represents -1 as well.
    read: (view, at, little) => Math.max(view[get](at, little) / scale, scale === 1 ? low : -1),
    write: (view, at, value, little) => view[set](at, Math.min(high, Math.max(low, Math.round(value * scale))), little),
    range: scale === 1 ? [low, high] : [signed ? -1 : 0, 1],
  };
};

const FORMATS: Readonly<Record<NumberKind, NumberFormat>> = {
  f32: {
    bytes: 4,
    read: (view, at, little) => view.getFloat32(at, little),
    write: (view, at, value, little) => view.setFloat32(at, value, little),
    range: [-3.4028234663852886e38, 3.4028234663852886e38],
  },
  f16: {
    bytes: 2,
    read: (view, at, little) => fromHalf(view.getUint16(at, little)),
    write: (view, at, value, little) => view.setUint16(at, toHalf(value), little),
    range: [-65_504, 65_504],
  },
  u8: whole(1, false, 1),
  i8: whole(1, true, 1),
  u16: whole(2, false, 1),
  i16: whole(2, true, 1),
  u32: whole(4, false, 1),
  unorm8: whole(1, false, 255),
  snorm8: whole(1, true, 127),
  unorm16: whole(2, false, 65_535),
  snorm16: whole(2, true, 32_767),
};

/** Binary16 of IEEE 754. */
function fromHalf(bits: number): number {
  const sign = bits >> 15 === 1 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 31) return fraction === 0 ? sign * Infinity : NaN;
  return sign * (exponent === 0 ? fraction * 2 ** -24 : (1 + fraction / 1024) * 2 ** (exponent - 15));
}

function toHalf(value: number): number {
  const sign = value < 0 || Object.is(value, -0) ? 0x8000 : 0;
  const size = Math.abs(value);
  if (Number.isNaN(value)) return 0x7e00;
  if (size >= 65_520) return sign | 0x7c00;
  if (size < 2 ** -14) return sign | Math.round(size * 2 ** 24);
  const exponent = Math.floor(Math.log2(size));
  // What rounds up to the next power of two carries into the exponent.
  return sign + ((exponent + 15) << 10) + Math.round((size / 2 ** exponent - 1) * 1024);
}

/** Some numbers of each thing in a row of things of equal size. */
export interface Lane {
  readonly as: NumberKind;
  /** In the bytes of one thing. */
  readonly at: number;
  readonly count: number;
}

export const laneBytes = ({ as, count }: Lane): number => FORMATS[as].bytes * count;
export const laneRange = ({ as }: Lane): readonly [number, number] => FORMATS[as].range;

export interface Rows {
  /** Where the first begins. */
  readonly from: number;
  readonly stride: number;
  readonly count: number;
  readonly little: boolean;
}

/** The numbers of a lane, of all rows. */
export function readLane(bytes: Uint8Array, { as, at, count }: Lane, rows: Rows): Float32Array {
  const { read, bytes: size } = FORMATS[as];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Float32Array(rows.count * count);
  for (let row = 0, i = 0; row < rows.count; row++)
    for (let j = 0; j < count; j++, i++)
      out[i] = read(view, rows.from + row * rows.stride + at + j * size, rows.little);
  return out;
}

/** Writes the numbers of a lane; those beyond what it keeps become the nearest it does. */
export function writeLane(bytes: Uint8Array, { as, at, count }: Lane, rows: Rows, values: ArrayLike<number>): void {
  const { write, bytes: size } = FORMATS[as];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let row = 0, i = 0; row < rows.count; row++)
    for (let j = 0; j < count; j++, i++)
      write(view, rows.from + row * rows.stride + at + j * size, values[i]!, rows.little);
}

/** @throws FormatError `wrong-kind` for the first number that is none, with the thing it belongs to */
export function checkNumbers(values: Float32Array, count: number, file: string, what: string): void {
  const bad = values.findIndex((value) => !Number.isFinite(value));
  if (bad < 0) return;
  throw new FormatError({
    code: 'wrong-kind',
    file,
    what: `the ${what} of vertex ${Math.floor(bad / count).toLocaleString('en')} is not a number`,
    expected: 'finite numbers',
    found: String(values[bad]),
    hint: 'Find the vertex in your program and set it again, or delete it.',
  });
}
