/** The contract of every step a `through` chain can name. */

export type ParamValue = Uint8Array | number | bigint | string;

/** One parameter of a codec; positional parameters come first, in this order, and may be named as well. */
export interface ParamSpec {
  readonly name: string;
  readonly type: 'key' | 'bytes' | 'number' | 'word' | 'any';
  /** Exact length for keys and bytes. */
  readonly length?: number;
  readonly words?: readonly string[];
  /** Used when the recipe does not say; a parameter without a default must be given. */
  readonly otherwise?: ParamValue;
}

export interface CodecContext {
  readonly params: Readonly<Record<string, ParamValue>>;
  /** Bytes after decoding, when the archive says so: enforced while bytes flow. */
  readonly plainSize?: number;
  /** Decoding fails with a LimitError rather than make more bytes than this. */
  readonly maxPlainBytes: number;
}

export interface Codec {
  readonly name: string;
  readonly family: 'compression' | 'cipher' | 'own';
  readonly params: readonly ParamSpec[];
  /** One sentence for the reference. */
  readonly about: string;
  /**
   * The plain bytes of a whole stored stretch.
   *
   * @throws FormatError `codec-failed` or `size-differs`
   * @throws LimitError when the plain bytes would pass `maxPlainBytes`
   */
  decode(stored: Uint8Array, context: CodecContext): Uint8Array;
  /** The exact inverse: `decode(encode(plain))` equals `plain`. */
  encode(plain: Uint8Array, context: CodecContext): Uint8Array;
  /** The same, piece by piece, for stretches that do not fit in memory. */
  decodeStream?(stored: AsyncIterable<Uint8Array>, context: CodecContext): AsyncIterable<Uint8Array>;
  encodeStream?(plain: AsyncIterable<Uint8Array>, context: CodecContext): AsyncIterable<Uint8Array>;
}
