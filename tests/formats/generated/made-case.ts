/** A format made by chance, whatever its kind: its recipe, and a writer and a strict reader that share nothing with the core. */
import type { Dice } from '../../soak/dice';
import type { MadeEntry } from './common';

/** The files of one archive by name, the main one first. */
export type Files = Readonly<Record<string, Buffer>>;

export interface MadeCase {
  /** What tells the format from others of its kind, for whoever looks into a fault. */
  readonly format: object;
  readonly recipe: string;
  /** True when the archive keeps hashes alone, so that a list of paths goes with it. */
  readonly hashed?: boolean;
  /** True when a patch can say that an entry is gone. */
  readonly marks?: boolean;
  /** An archive of the entries, in an order that the format allows. */
  write(entries: readonly MadeEntry[], dice: Dice): Files;
  /**
   * What a strict reader of the format finds; undefined for entries that are marked as gone.
   *
   * @param paths all that may be in it, for formats without names
   * @throws Error with what is wrong
   */
  read(files: Files, paths: readonly string[]): ReadonlyMap<string, Buffer | undefined>;
}

export function demand(holds: boolean, what: string): void {
  if (!holds) throw new Error(what);
}

export const isZero = (bytes: Uint8Array): boolean => bytes.every((byte) => byte === 0);

/** The kinds of names that most tables have. */
export type NameKind = 'fixed' | 'prefixed' | 'ended';
const FIXED = 32;

export const nameKinds: Readonly<Record<NameKind, string>> = {
  fixed: `text(${FIXED}, utf-8)`,
  prefixed: 'text(u8, utf-8)',
  ended: 'text(zero, utf-8)',
};

export function nameToBytes(kind: NameKind, name: string): Buffer {
  const text = Buffer.from(name);
  if (kind === 'fixed') return Buffer.concat([text, Buffer.alloc(FIXED - text.length)]);
  return kind === 'prefixed'
    ? Buffer.concat([Buffer.from([text.length]), text])
    : Buffer.concat([text, Buffer.alloc(1)]);
}

/** @returns the name, and where what follows it begins */
export function nameFromBytes(kind: NameKind, bytes: Buffer, at: number): { name: string; next: number } {
  switch (kind) {
    case 'fixed': {
      const field = bytes.subarray(at, at + FIXED);
      const zero = field.indexOf(0);
      const text = zero < 0 ? field : field.subarray(0, zero);
      demand(isZero(field.subarray(text.length)), 'bytes behind a name');
      return { name: text.toString(), next: at + FIXED };
    }
    case 'prefixed': {
      const next = at + 1 + bytes[at]!;
      return { name: bytes.subarray(at + 1, next).toString(), next };
    }
    case 'ended': {
      const zero = bytes.indexOf(0, at);
      demand(zero >= 0, 'a name without an end');
      return { name: bytes.subarray(at, zero).toString(), next: zero + 1 };
    }
  }
}
