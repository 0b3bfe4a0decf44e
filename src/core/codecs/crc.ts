/** CRCs of any parameters, in the words of the Rocksoft model (Williams, 1993). */
import type { ParamSpec } from './codec';
import { short, type HashFacts, type Hasher, type HashParams } from './hasher';
import { unfitParameter } from './own-fault';

const params: readonly ParamSpec[] = [
  { name: 'width', type: 'number' },
  { name: 'polynomial', type: 'number' },
  { name: 'start', type: 'number', otherwise: 0 },
  { name: 'reflect-in', type: 'number', otherwise: 0 },
  { name: 'reflect-out', type: 'number', otherwise: -1 },
  { name: 'xor', type: 'number', otherwise: 0 },
];

/** The lowest `count` bits the other way round. */
function reflected(value: bigint, count: number): bigint {
  let out = 0n;
  for (let bit = 0; bit < count; bit++) if ((value >> BigInt(bit)) & 1n) out |= 1n << BigInt(count - 1 - bit);
  return out;
}

/** Tables of 256, by what they are made of: each costs as much as hashing a few kilobytes. */
const tables = new Map<string, BigUint64Array>();

/** The register of so many bits is at the top of 64: all widths go the same way. */
function tableOf(width: number, polynomial: bigint): BigUint64Array {
  const key = `${width}:${polynomial}`;
  const known = tables.get(key);
  if (known !== undefined) return known;
  const top = polynomial << BigInt(64 - width);
  const made = BigUint64Array.from({ length: 256 }, (_, byte) => {
    let value = BigInt(byte) << 56n;
    for (let bit = 0; bit < 8; bit++) value = BigInt.asUintN(64, value >> 63n ? (value << 1n) ^ top : value << 1n);
    return value;
  });
  if (tables.size > 64) tables.clear();
  tables.set(key, made);
  return made;
}

function create(given: HashParams): Hasher {
  const width = Number(given['width']);
  if (!Number.isInteger(width) || width < 1 || width > 64) throw unfitParameter('crc', 'width', '1 to 64 bits', width);
  const number = (name: string): bigint => BigInt.asUintN(width, BigInt((given[name] ?? 0) as number | bigint));
  const isIn = Number(given['reflect-in'] ?? 0) !== 0;
  const said = Number(given['reflect-out'] ?? -1);
  const isOut = said < 0 ? isIn : said !== 0;
  const table = tableOf(width, number('polynomial'));
  const shift = BigInt(64 - width);
  let register = number('start') << shift;
  return {
    update: (bytes) => {
      for (let i = 0; i < bytes.length; i++) {
        const byte = isIn ? REFLECTED[bytes[i]!]! : bytes[i]!;
        register = BigInt.asUintN(64, register << 8n) ^ table[Number(register >> 56n) ^ byte]!;
      }
    },
    digest: () => {
      const value = register >> shift;
      return short((isOut ? reflected(value, width) : value) ^ number('xor'));
    },
  };
}

const REFLECTED = Uint8Array.from({ length: 256 }, (_, byte) => Number(reflected(BigInt(byte), 8)));

export const anyCrc: HashFacts = {
  name: 'crc',
  about:
    'a CRC of `width` bits with a `polynomial` (written without its highest bit, not reflected), a `start`, bits of each byte and of the end the other way round (`reflect-in`, `reflect-out`), and a final `xor`',
  params,
  create,
};
