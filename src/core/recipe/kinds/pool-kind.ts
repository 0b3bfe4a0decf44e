/** Pools: texts that others point into. */
import { ByteWriter, Cursor } from '../../bytes';
import { FormatError } from '../../faults';
import { isPool, type PoolValue, type Value } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Expression } from '../language/expression';
import type { FieldKind } from '../model';
import { StretchColumn } from '../read/columns';
import { writeNumber, type NumberFacts } from './number-kinds';
import { invalidKind, type KindSetting } from './setting';
import { encodeVarint, readVarint } from './stretch-kinds';
import { textCodec, type TextCodec } from './text-codec';
import { type TextRule, textRule, unitBytes, endFrom, checkWithin } from './text-kinds';

/** `pool(zero, encoding)` or `pool(u16, encoding)`: texts one after the other, to the end of the bytes at hand. */
export function poolKind(text: string, call: Expression & { kind: 'call' }, setting: KindSetting): FieldKind {
  const rule = textRule(text, call, setting);
  if (rule.length.kind !== 'ended' && rule.length.kind !== 'prefix')
    throw invalidKind(
      `${text} is not a pool`,
      'pool(zero, encoding), pool(until(0x0A), encoding) or pool(u16, encoding)',
      setting,
    );
  return {
    text,
    fixedSize: undefined,
    minSize: 0,
    flows: false,
    type: { kind: 'pool' },
    poolOf: (found) => new Pool(found, rule, setting),
    makeColumn: () => {
      // One pool for all who ask: it counts its texts only once.
      let last: { stretch: Uint8Array; pool: Pool } | undefined;
      return new StretchColumn((stretch) => {
        const same =
          last?.stretch.byteOffset === stretch.byteOffset &&
          last.stretch.length === stretch.length &&
          last.stretch.buffer === stretch.buffer;
        if (!same) last = { stretch, pool: new Pool(stretch, rule, setting) };
        return last!.pool;
      });
    },
    read: (cursor, column, row) => {
      const { left } = cursor;
      (column as StretchColumn).put(row, cursor.bytes, cursor.advance(left), left);
    },
    write: (writer, value) => {
      if (value instanceof Uint8Array) writer.put(value);
      else if (isPool(value)) writer.put(value.bytes());
    },
  };
}

/** Texts one after the other. While a file is written, texts that are missing are added at the end. */
class Pool implements PoolValue {
  readonly pool = true;
  private readonly codec: TextCodec;
  private readonly little: boolean;
  private readonly starts: number[] = [];
  private readonly first = new Map<string, number>();
  private readonly added: Uint8Array[] = [];
  private readonly addedTexts = new Map<number, string>();
  private size: number;
  private scanned = false;
  /** What has been asked for, while that is noted: the texts, and where the next new one has to start. */
  private watched: { readonly seen: Set<number>; next: number; inOrder: boolean } | undefined;
  constructor(
    private readonly found: Uint8Array,
    private readonly rule: TextRule,
    setting: KindSetting,
  ) {
    this.little = setting.numbers !== 'big';
    this.codec = textCodec(rule.encoding, this.little);
    this.size = found.length;
  }

  get count(): number {
    this.scan();
    return this.starts.length;
  }
  textAt(offset: number): string {
    if (offset >= this.found.length && this.addedTexts.size > 0) return this.addedAt(offset);
    const end = this.endOf(offset);
    return this.codec.decode(this.found.subarray(end.from, end.to));
  }
  text(index: number): string {
    this.scan();
    const start = this.starts[index];
    if (start !== undefined) return this.textAt(start);
    throw new FormatError({
      code: 'must-differs',
      what: 'a number is past the end of its pool',
      expected: `below ${this.starts.length}`,
      found: String(index),
    });
  }
  place(text: string, found: Value): number {
    if (typeof found === 'number' && found < this.found.length && this.hasText(found, text)) return this.noted(found);
    return this.starts[this.indexOf(text, undefined)]!;
  }
  indexOf(text: string, found: Value): number {
    this.scan();
    if (typeof found === 'number' && found < this.starts.length && this.text(found) === text) {
      this.noted(this.starts[found]!);
      return found;
    }
    const known = this.first.get(text);
    if (known !== undefined) return known;
    const { rule, codec } = this;
    const bytes = codec.encode(text);
    const number = rule.length.kind === 'prefix' ? rule.length.number : undefined;
    const parts = [bytes];
    if (rule.length.kind === 'ended') {
      checkWithin(bytes, codec, rule.length.end, text);
      parts.push(unitBytes(rule.length.end, codec));
    } else if (number === undefined) parts.unshift(encodeVarint((rule.length as { name: string }).name, bytes.length));
    else {
      const writer = new ByteWriter();
      const units = rule.countsBytes ? bytes.length : bytes.length / codec.unit;
      writeNumber('the length of a text', number, writer, units, this.little);
      parts.unshift(writer.bytes().slice());
    }
    const index = this.starts.length;
    this.starts.push(this.size);
    this.addedTexts.set(this.size, text);
    this.first.set(text, index);
    const whole = new Uint8Array(Buffer.concat(parts));
    this.added.push(whole);
    this.size += whole.length;
    return index;
  }
  watch(): void {
    this.watched = { seen: new Set(), next: 0, inOrder: true };
  }
  wasInOrder(): boolean {
    const watched = this.watched;
    this.watched = undefined;
    return watched !== undefined && watched.inOrder && watched.next === this.found.length;
  }
  private noted(offset: number): number {
    const { watched } = this;
    if (watched === undefined || watched.seen.has(offset)) return offset;
    watched.seen.add(offset);
    watched.inOrder &&= offset === watched.next;
    if (watched.inOrder) watched.next = this.endOf(offset).next;
    return offset;
  }
  /** What was found and what was added. */
  bytes(): Uint8Array {
    return this.added.length === 0 ? this.found : new Uint8Array(Buffer.concat([this.found, ...this.added]));
  }

  private hasText(offset: number, text: string): boolean {
    try {
      return this.textAt(offset) === text;
    } catch {
      return false;
    }
  }
  private addedAt(offset: number): string {
    const text = this.addedTexts.get(offset);
    if (text !== undefined) return text;
    throw outsidePool(offset, this.size);
  }
  /** Where the text at an offset lies, and where the next one starts. */
  private endOf(offset: number): { from: number; to: number; next: number } {
    const { found, rule, codec } = this;
    if (offset < 0 || offset >= found.length) throw outsidePool(offset, found.length);
    if (rule.length.kind === 'ended') {
      const end = endFrom(found, offset, codec, rule.length.end);
      const to = end < 0 ? found.length : end;
      return { from: offset, to, next: Math.min(found.length, to + codec.unit) };
    }
    const { number, name } = rule.length as { number: NumberFacts | undefined; name: string };
    const cursor = new Cursor(found.subarray(offset), offset);
    const count = wholeNumber(
      number === undefined ? readVarint(name, cursor) : number.read(cursor, this.little),
      'the length of a text',
    );
    const from = offset + cursor.position;
    const to = from + count * (rule.countsBytes ? 1 : codec.unit);
    if (to > found.length) throw outsidePool(to, found.length);
    return { from, to, next: to };
  }
  private scan(): void {
    if (this.scanned) return;
    this.scanned = true;
    for (let at = 0; at < this.found.length;) {
      const { from, to, next } = this.endOf(at);
      const text = this.codec.decode(this.found.subarray(from, to));
      if (!this.first.has(text)) this.first.set(text, this.starts.length);
      this.starts.push(at);
      at = next;
    }
  }
}

function outsidePool(offset: number, size: number): FormatError {
  return new FormatError({
    code: 'outside-file',
    what: 'an offset leads out of its pool of texts',
    expected: `below 0x${size.toString(16).toUpperCase()}`,
    found: `0x${offset.toString(16).toUpperCase()}`,
  });
}
