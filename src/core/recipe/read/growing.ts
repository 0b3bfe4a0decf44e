/** Typed arrays that grow: the stuff columns are made of. */

type NumberArray =
  Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array;

/** The engine keeps smaller arrays among its objects; a buffer of their own costs far more than they hold. */
const SMALL_BYTES = 64;

/** A typed array that grows by doubling; rows may be filled in any order. */
export class Growing<T extends NumberArray = NumberArray> {
  constructor(
    private array: T,
    private readonly make: (size: number) => T,
  ) {}

  put(index: number, value: number): void {
    if (index >= this.array.length) this.reserve(index + 1);
    this.array[index] = value;
  }
  get(index: number): number {
    return this.array[index] ?? 0;
  }
  reserve(size: number): void {
    if (size <= this.array.length) return;
    const larger = this.make(Math.max(size, this.array.length * 2, SMALL_BYTES / this.array.BYTES_PER_ELEMENT));
    larger.set(this.array as never);
    this.array = larger;
  }
}

const NONE = {
  uint8: new Uint8Array(0),
  int8: new Int8Array(0),
  uint16: new Uint16Array(0),
  int16: new Int16Array(0),
  uint32: new Uint32Array(0),
  int32: new Int32Array(0),
  float32: new Float32Array(0),
  float64: new Float64Array(0),
};

export const growing = {
  u8: () => new Growing(NONE.uint8, (size) => new Uint8Array(size)),
  i8: () => new Growing(NONE.int8, (size) => new Int8Array(size)),
  u16: () => new Growing(NONE.uint16, (size) => new Uint16Array(size)),
  i16: () => new Growing(NONE.int16, (size) => new Int16Array(size)),
  u32: () => new Growing(NONE.uint32, (size) => new Uint32Array(size)),
  i32: () => new Growing(NONE.int32, (size) => new Int32Array(size)),
  f32: () => new Growing(NONE.float32, (size) => new Float32Array(size)),
  f64: () => new Growing(NONE.float64, (size) => new Float64Array(size)),
};

export type NumberStore = keyof typeof growing;
