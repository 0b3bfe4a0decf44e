/** Walks through the bytes of a file and stops the game where a rule is broken. */
import { LoadStop } from './report';

export class Walk {
  at = 0;

  /** @param kind begins the code of every stop, such as `WORLD` */
  constructor(
    readonly file: string,
    private readonly kind: string,
    readonly bytes: Buffer,
    private readonly order: 'little' | 'big' = 'little',
    private readonly entry?: string,
  ) {}

  /** @throws LoadStop always */
  stop(code: string, offset: number, rule: string, found: unknown): never {
    const entry = this.entry === undefined ? {} : { entry: this.entry };
    throw new LoadStop({ code: `${this.kind}-${code}`, file: this.file, ...entry, offset, rule, found: String(found) });
  }

  take(length: number): Buffer {
    if (length < 0 || this.at + length > this.bytes.length)
      this.stop('SHORT', this.at, 'The file does not end early.', `${this.bytes.length} bytes`);
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }

  u8(): number {
    return this.take(1)[0]!;
  }
  u16(): number {
    return this.order === 'little' ? this.take(2).readUInt16LE() : this.take(2).readUInt16BE();
  }
  u32(): number {
    return this.order === 'little' ? this.take(4).readUInt32LE() : this.take(4).readUInt32BE();
  }
  u64(): bigint {
    return this.order === 'little' ? this.take(8).readBigUInt64LE() : this.take(8).readBigUInt64BE();
  }
  /** A whole number that a place in a file can be. */
  offset(): number {
    const at = this.at;
    const value = this.u64();
    if (value > BigInt(Number.MAX_SAFE_INTEGER)) this.stop('OFFSET', at, 'An offset lies in a file.', value);
    return Number(value);
  }
  fixed(length: number): string {
    return this.take(length).toString('latin1').replace(/\0+$/, '');
  }
  text8(): string {
    return this.take(this.u8()).toString('utf8');
  }
  textZ(): string {
    const end = this.bytes.indexOf(0, this.at);
    if (end < 0) this.stop('TEXT', this.at, 'A name ends with a zero.', 'no zero');
    const text = this.take(end - this.at).toString('utf8');
    this.at++;
    return text;
  }

  is(what: string, wanted: unknown, found: unknown, offset: number, rule: string): void {
    if (found !== wanted) this.stop(what, offset, rule, found);
  }
  magic(text: string): void {
    const at = this.at;
    this.is('MAGIC', text, this.take(text.length).toString('latin1'), at, `${text} stands here.`);
  }
  zeros(length: number): void {
    for (const [i, byte] of this.take(length).entries())
      if (byte !== 0) this.stop('FILL', this.at - length + i, 'Unused space is filled with zeros.', byte);
  }
  ended(): void {
    if (this.at !== this.bytes.length)
      this.stop('LONG', this.at, 'Nothing stands behind the end.', `${this.bytes.length - this.at} bytes`);
  }
}

/** A stretch of a file that something lies in. */
export interface Stretch {
  readonly at: number;
  readonly end: number;
}

/** Stretches start where they may, do not overlap, lie in the file, and what is between them is fill. */
export function checkStretches(
  walk: Walk,
  stretches: readonly Stretch[],
  { from, align, fill }: { from: number; align: number; fill: number },
): void {
  let end = from;
  for (const one of [...stretches].sort((a, b) => a.at - b.at || a.end - b.end)) {
    if (one.at % align !== 0) walk.stop('ALIGN', one.at, `Everything starts at a multiple of ${align}.`, one.at);
    if (one.end > walk.bytes.length) walk.stop('OUTSIDE', one.at, 'Everything lies inside the file.', one.end);
    if (one.at < end)
      walk.stop('OVERLAP', one.at, 'Nothing overlaps.', `starts at ${one.at}, the one before ends at ${end}`);
    for (let i = end; i < one.at; i++)
      if (walk.bytes[i] !== fill) walk.stop('FILL', i, `Space between is filled with ${fill}.`, walk.bytes[i]);
    end = one.end;
  }
  if (end !== walk.bytes.length)
    walk.stop('LONG', end, 'Nothing stands behind the last one.', `${walk.bytes.length - end} bytes`);
}
