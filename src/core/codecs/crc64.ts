/** CRC-64 with the polynomial of ECMA-182, on two 32-bit halves. */
import type { Hasher } from './hasher';

interface Tables {
  readonly high: Uint32Array;
  readonly low: Uint32Array;
}

const POLYNOMIAL = 0x42f0e1eba9ea3693n;
const REFLECTED = 0xc96c5795d7870f42n;

function makeTables(reflected: boolean): Tables {
  const high = new Uint32Array(256);
  const low = new Uint32Array(256);
  for (let byte = 0; byte < 256; byte++) {
    let value = reflected ? BigInt(byte) : BigInt(byte) << 56n;
    for (let bit = 0; bit < 8; bit++) {
      if (reflected) value = value & 1n ? (value >> 1n) ^ REFLECTED : value >> 1n;
      else value = BigInt.asUintN(64, value & (1n << 63n) ? (value << 1n) ^ POLYNOMIAL : value << 1n);
    }
    high[byte] = Number(value >> 32n);
    low[byte] = Number(value & 0xffffffffn);
  }
  return { high, low };
}

const made = new Map<boolean, Tables>();

/** Reflected with inverted start and end (XZ), or plain (ECMA-182). */
export function crc64(reflected: boolean): Hasher {
  const tables = made.get(reflected) ?? makeTables(reflected);
  made.set(reflected, tables);
  let high = reflected ? 0xffffffff : 0;
  let low = high;
  return {
    update: (bytes) => {
      for (let i = 0; i < bytes.length; i++) {
        if (reflected) {
          const index = (low ^ bytes[i]!) & 0xff;
          low = (((low >>> 8) | (high << 24)) ^ tables.low[index]!) >>> 0;
          high = ((high >>> 8) ^ tables.high[index]!) >>> 0;
        } else {
          const index = ((high >>> 24) ^ bytes[i]!) & 0xff;
          high = (((high << 8) | (low >>> 24)) ^ tables.high[index]!) >>> 0;
          low = ((low << 8) ^ tables.low[index]!) >>> 0;
        }
      }
    },
    digest: () => {
      const value = (BigInt(high) << 32n) | BigInt(low);
      const end = reflected ? value ^ 0xffffffffffffffffn : value;
      return end <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(end) : end;
    },
  };
}
