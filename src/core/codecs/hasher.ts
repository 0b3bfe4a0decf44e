/** What every hash is, and the keys under which hashes with parameters are known. */
import type { ParamSpec, ParamValue } from './codec';

export type Digest = number | bigint | Uint8Array;

export interface Hasher {
  update(bytes: Uint8Array): void;
  /** A number for checksums and short hashes (bigint beyond 2^53), bytes for cryptographic ones. */
  digest(): Digest;
}

export type HashParams = Readonly<Record<string, ParamValue>>;

export interface HashFacts {
  readonly name: string;
  readonly about: string;
  readonly params: readonly ParamSpec[];
  create(params: HashParams): Hasher;
}

/** A whole number, exact beyond 2^53. */
export const short = (value: bigint): number | bigint =>
  value <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(value) : value;

/** The key of a hash with these parameters, such as `murmur3@seed=5`. */
export function hasherKey(name: string, params: HashParams): string {
  const parts = Object.entries(params)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([param, value]) => `${param}=${value instanceof Uint8Array ? `bytes:${hexOf(value)}` : numberOrWord(value)}`);
  return parts.length === 0 ? name : `${name}@${parts.join('&')}`;
}

/** The inverse of {@link hasherKey}. */
export function fromHasherKey(key: string): { name: string; params: HashParams } {
  const at = key.indexOf('@');
  if (at < 0) return { name: key, params: {} };
  const params = key
    .slice(at + 1)
    .split('&')
    .map((part): [string, ParamValue] => {
      const equals = part.indexOf('=');
      return [part.slice(0, equals), valueOf(part.slice(equals + 1))];
    });
  return { name: key.slice(0, at), params: Object.fromEntries(params) };
}

const hexOf = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');
const numberOrWord = (value: number | bigint | string) =>
  typeof value === 'string' ? `word:${encodeURIComponent(value)}` : String(value);

function valueOf(text: string): ParamValue {
  if (text.startsWith('bytes:')) return new Uint8Array(Buffer.from(text.slice(6), 'hex'));
  if (text.startsWith('word:')) return decodeURIComponent(text.slice(5));
  return short(BigInt(text));
}
