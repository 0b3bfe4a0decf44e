/** Typed arrays that grow: the stuff columns are made of. */

type NumberArray =
  Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array;

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
    const larger = this.make(Math.max(size, this.array.length * 2, 16));
    larger.set(this.array as never);
    this.array = larger;
  }
}

export const growing = {
  u8: () => new Growing(new Uint8Array(0), (size) => new Uint8Array(size)),
  i8: () => new Growing(new Int8Array(0), (size) => new Int8Array(size)),
  u16: () => new Growing(new Uint16Array(0), (size) => new Uint16Array(size)),
  i16: () => new Growing(new Int16Array(0), (size) => new Int16Array(size)),
  u32: () => new Growing(new Uint32Array(0), (size) => new Uint32Array(size)),
  i32: () => new Growing(new Int32Array(0), (size) => new Int32Array(size)),
  f32: () => new Growing(new Float32Array(0), (size) => new Float32Array(size)),
  f64: () => new Growing(new Float64Array(0), (size) => new Float64Array(size)),
};

export type NumberStore = keyof typeof growing;
