/** What changes bytes one by one, whole or piece by piece: the frame that all of it shares. */
import { copyOf } from '../bytes';
import { FormatError } from '../faults';
import type { Codec, CodecContext, ParamSpec, ParamValue } from './codec';

export type Params = Readonly<Record<string, ParamValue>>;
/** Changes bytes in place; remembers where it is between calls. */
export type Machine = (bytes: Uint8Array) => void;

export interface Scramble {
  readonly name: string;
  readonly about: string;
  readonly params: readonly ParamSpec[];
  readonly decoder: (params: Params) => Machine;
  /** Left out where the scramble undoes itself. */
  readonly encoder?: (params: Params) => Machine;
}

/** A codec that keeps the length of what it is given. */
export function scramble({ name, about, params, decoder, encoder = decoder }: Scramble): Codec {
  const whole =
    (make: (params: Params) => Machine) =>
    (bytes: Uint8Array, { params: given }: CodecContext) => {
      const copy = copyOf(bytes);
      make(given)(copy);
      return copy;
    };
  const stream = (make: (params: Params) => Machine) =>
    async function* (chunks: AsyncIterable<Uint8Array>, { params: given }: CodecContext) {
      const machine = make(given);
      for await (const chunk of chunks) {
        const copy = copyOf(chunk);
        machine(copy);
        yield copy;
      }
    };
  return {
    name,
    family: 'cipher',
    about,
    params,
    decode: whole(decoder),
    encode: whole(encoder),
    decodeStream: stream(decoder),
    encodeStream: stream(encoder),
  };
}

/** A parameter that is bytes or a text. @throws FormatError `codec-failed` when it is shorter than `least` */
export function bytesOf(params: Params, name: string, least = 1): Uint8Array {
  const value = params[name];
  const bytes = typeof value === 'string' ? new TextEncoder().encode(value) : value;
  if (bytes instanceof Uint8Array && bytes.length >= least) return bytes;
  throw new FormatError({
    code: 'codec-failed',
    what: `${name} is not a row of bytes`,
    expected: `at least ${least} bytes`,
    found: bytes instanceof Uint8Array ? `${bytes.length}` : String(value),
  });
}

export const number = (params: Params, name: string): number => Number(params[name] ?? 0);
export const big = (params: Params, name: string): bigint => BigInt(params[name] as number | bigint);
export const count = (name: string, otherwise?: number): ParamSpec => ({
  name,
  type: 'number',
  ...(otherwise === undefined ? {} : { otherwise }),
});
