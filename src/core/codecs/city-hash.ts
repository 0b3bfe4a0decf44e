/** CityHash64, version 1.1 (Pike and Alakuijala, 2011), by its authors' text. */

const K0 = 0xc3a5c85c97cb3127n;
const K1 = 0xb492b66fbe98f273n;
const K2 = 0x9ae16a3b2f90404fn;
const MUL = 0x9ddfea08eb382d69n;

const u64 = (x: bigint): bigint => BigInt.asUintN(64, x);
const rotated = (x: bigint, by: number): bigint => (by === 0 ? x : u64((x >> BigInt(by)) | (x << BigInt(64 - by))));
const shiftMix = (x: bigint): bigint => x ^ (x >> 47n);
const swapped = (x: bigint): bigint => {
  const bytes = Buffer.alloc(8);
  bytes.writeBigUInt64LE(x);
  return bytes.readBigUInt64BE();
};

function mixed(u: bigint, v: bigint, mul = MUL): bigint {
  const a = shiftMix(u64((u ^ v) * mul));
  return u64(shiftMix(u64((v ^ a) * mul)) * mul);
}

class City {
  private readonly view: DataView;
  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  private word(at: number): bigint {
    return this.view.getBigUint64(at, true);
  }
  private half(at: number): bigint {
    return BigInt(this.view.getUint32(at, true));
  }

  hash(): bigint {
    const { length } = this.bytes;
    if (length <= 16) return this.upTo16();
    if (length <= 32) return this.upTo32();
    if (length <= 64) return this.upTo64();
    return this.long();
  }

  private upTo16(): bigint {
    const { length } = this.bytes;
    const size = BigInt(length);
    if (length >= 8) {
      const mul = u64(K2 + size * 2n);
      const a = u64(this.word(0) + K2);
      const b = this.word(length - 8);
      const c = u64(rotated(b, 37) * mul + a);
      const d = u64((rotated(a, 25) + b) * mul);
      return mixed(c, d, mul);
    }
    if (length >= 4) {
      const mul = u64(K2 + size * 2n);
      return mixed(u64(size + (this.half(0) << 3n)), this.half(length - 4), mul);
    }
    if (length === 0) return K2;
    const y = BigInt(this.bytes[0]!) + (BigInt(this.bytes[length >> 1]!) << 8n);
    const z = size + (BigInt(this.bytes[length - 1]!) << 2n);
    return u64(shiftMix(u64(y * K2) ^ u64(z * K0)) * K2);
  }

  private upTo32(): bigint {
    const { length } = this.bytes;
    const mul = u64(K2 + BigInt(length) * 2n);
    const a = u64(this.word(0) * K1);
    const b = this.word(8);
    const c = u64(this.word(length - 8) * mul);
    const d = u64(this.word(length - 16) * K2);
    return mixed(u64(rotated(u64(a + b), 43) + rotated(c, 30) + d), u64(a + rotated(u64(b + K2), 18) + c), mul);
  }

  private upTo64(): bigint {
    const { length } = this.bytes;
    const mul = u64(K2 + BigInt(length) * 2n);
    let a = u64(this.word(0) * K2);
    let b = this.word(8);
    const c = this.word(length - 24);
    const d = this.word(length - 32);
    const e = u64(this.word(16) * K2);
    const f = u64(this.word(24) * 9n);
    const g = this.word(length - 8);
    const h = u64(this.word(length - 16) * mul);
    const u = u64(rotated(u64(a + g), 43) + (rotated(b, 30) + c) * 9n);
    const v = u64((u64(a + g) ^ d) + f + 1n);
    const w = u64(swapped(u64(u64(u + v) * mul)) + h);
    const x = u64(rotated(u64(e + f), 42) + c);
    const y = u64((swapped(u64(u64(v + w) * mul)) + g) * mul);
    const z = u64(e + f + c);
    a = u64(swapped(u64(u64(x + z) * mul + y)) + b);
    b = u64(shiftMix(u64(u64(z + a) * mul + d + h)) * mul);
    return u64(b + x);
  }

  private weak(at: number, a: bigint, b: bigint): [bigint, bigint] {
    const [w, x, y, z] = [this.word(at), this.word(at + 8), this.word(at + 16), this.word(at + 24)];
    let first = u64(a + w);
    let second = rotated(u64(b + first + z), 21);
    const before = first;
    first = u64(first + x + y);
    second = u64(second + rotated(first, 44));
    return [u64(first + z), u64(second + before)];
  }

  private long(): bigint {
    const { length } = this.bytes;
    let x = this.word(length - 40);
    let y = u64(this.word(length - 16) + this.word(length - 56));
    let z = mixed(u64(this.word(length - 48) + BigInt(length)), this.word(length - 24));
    let v = this.weak(length - 64, BigInt(length), z);
    let w = this.weak(length - 32, u64(y + K1), x);
    x = u64(x * K1 + this.word(0));
    const end = (length - 1) & ~63;
    for (let at = 0; at < end; at += 64) {
      x = u64(rotated(u64(x + y + v[0] + this.word(at + 8)), 37) * K1);
      y = u64(rotated(u64(y + v[1] + this.word(at + 48)), 42) * K1);
      x ^= w[1];
      y = u64(y + v[0] + this.word(at + 40));
      z = u64(rotated(u64(z + w[0]), 33) * K1);
      v = this.weak(at, u64(v[1] * K1), u64(x + w[0]));
      w = this.weak(at + 32, u64(z + w[1]), u64(y + this.word(at + 16)));
      [z, x] = [x, z];
    }
    return mixed(u64(mixed(v[0], w[0]) + shiftMix(y) * K1 + z), u64(mixed(v[1], w[1]) + x));
  }
}

/** The hash of the bytes; with a seed, as the authors' own function with one seed mixes it in. */
export function cityHash64(bytes: Uint8Array, seed: bigint): number | bigint {
  const plain = new City(bytes).hash();
  const value = seed === 0n ? plain : mixed(u64(plain - K2), u64(seed));
  return value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value;
}
