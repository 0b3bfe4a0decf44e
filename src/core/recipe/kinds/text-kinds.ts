/** Texts: fixed, counted in front, ended by a zero; and pools of them. */
import { ByteWriter, Cursor } from '../../bytes';
import { FormatError, hexBytes, LimitError } from '../../faults';
import { isPool, showValue, wholeNumber, type PoolValue, type Value } from '../formula/value';
import type { Expression } from '../language/expression';
import type { FieldKind, Formula, ReadContext } from '../model';
import { StretchColumn } from '../read/columns';
import { NUMBERS, writeNumber, type NumberFacts } from './number-kinds';
import { isLittle, invalidKind, type KindSetting } from './setting';
import { sizeFor } from './size-for';
import { encodeVarint, readVarint, VARINT_NAMES } from './stretch-kinds';
import { ENCODINGS, textCodec, type Encoding, type TextCodec } from './text-codec';

type LengthRule =
  | { readonly kind: 'fixed'; readonly length: Formula; readonly constant: number | undefined }
  | { readonly kind: 'prefix'; readonly name: string; readonly number: NumberFacts | undefined }
  | { readonly kind: 'ended'; readonly end: number }
  | { readonly kind: 'rest' };

interface TextRule {
  readonly length: LengthRule;
  readonly encoding: Encoding;
  /** The number in front counts bytes, not code units. */
  readonly countsBytes: boolean;
  /** A zero ends the text and is counted with it. */
  readonly countsZero: boolean;
  /** What fills a fixed text behind its end. */
  readonly fill: number;
  /** Nothing else is behind the end of a fixed text. */
  readonly strictEnd: boolean;
}

/** `text(length, encoding, …)` and `ascii(n)`. */
export function textKind(text: string, call: Expression & { kind: 'call' }, setting: KindSetting): FieldKind {
  const rule = textRule(text, call, setting);
  const { length: by } = rule;
  const codecs = {
    little: textCodec(rule.encoding, true),
    big: textCodec(rule.encoding, false),
  };
  const { unit } = codecs.little;
  const current: { codec: TextCodec } = { codec: setting.numbers === 'big' ? codecs.big : codecs.little };
  const decode = (stretch: Uint8Array) => current.codec.decode(trimmed(stretch, rule, unit));
  const constant = by.kind === 'fixed' ? by.constant : undefined;
  return {
    text,
    fixedSize: constant,
    minSize: constant ?? (by.kind === 'prefix' ? (by.number?.size ?? 1) : by.kind === 'ended' ? unit : 0),
    flows: false,
    type: { kind: 'value', of: 'text' },
    makeColumn: () => new StretchColumn(decode),
    read: (cursor, column, row, context) => {
      if (setting.numbers === 'stored') current.codec = isLittle('stored', context.scope) ? codecs.little : codecs.big;
      const size = readLength(cursor, rule, current.codec, setting, context);
      checkTextLimit(size, cursor, context);
      const from = cursor.advance(size);
      if (by.kind === 'fixed' && rule.strictEnd) checkEnd(cursor.bytes, from, size, rule.fill, unit, context);
      (column as StretchColumn).put(row, cursor.bytes, from, size);
      if (by.kind === 'ended') cursor.advance(unit);
    },
    write: (writer, value, scope) => {
      const codec = isLittle(setting.numbers, scope) ? codecs.little : codecs.big;
      const kept = value instanceof Uint8Array;
      const bytes = kept ? value : codec.encode(textValue(value));
      if (by.kind === 'prefix') {
        const ended = rule.countsZero && !kept ? bytes.length + unit : bytes.length;
        const count = rule.countsBytes ? ended : ended / unit;
        if (by.number === undefined) writer.put(encodeVarint(by.name, count));
        else writeNumber(by.name, by.number, writer, count, isLittle(setting.numbers, scope));
        writer.put(bytes);
        writer.fill(ended - bytes.length, 0);
      } else if (by.kind === 'fixed') {
        const size = sizeFor(bytes.length, by.constant, by.length, scope);
        if (bytes.length > size) throw tooLong(`${bytes.length} bytes`, `at most ${size} bytes`, value);
        writer.put(bytes);
        writer.fill(size - bytes.length, rule.fill);
      } else {
        if (by.kind === 'ended' && !kept) checkWithin(bytes, codec, by.end, value);
        writer.put(bytes);
        if (by.kind === 'ended') writer.put(unitBytes(by.end, codec));
      }
    },
  };
}

function textRule(text: string, call: Expression & { kind: 'call' }, setting: KindSetting): TextRule {
  const { name, args, named } = call;
  const word = (expression: Expression | undefined) => (expression?.kind === 'name' ? expression.name : '');
  const encoding = name === 'ascii' ? 'ascii' : word(args[1]);
  if (!(ENCODINGS as readonly string[]).includes(encoding))
    throw invalidKind(`there is no encoding ${encoding || 'like that'}`, `one of ${ENCODINGS.join(', ')}`, setting);
  const unknown = Object.keys(named).find((key) => !['counts', 'ends', 'fill', 'rest'].includes(key));
  if (unknown !== undefined || args.length !== (name === 'ascii' ? 1 : 2))
    throw invalidKind(
      `${text} is not a text`,
      'text(length, encoding), with counts: bytes, ends: zero, fill: BYTE or rest: any',
      setting,
    );
  const fill = named['fill'];
  return {
    length: lengthRule(args[0]!, text, setting),
    encoding: encoding as Encoding,
    countsBytes: word(named['counts']) === 'bytes',
    countsZero: word(named['ends']) === 'zero',
    fill: fill?.kind === 'number' ? Number(fill.value) : 0,
    strictEnd: word(named['rest']) !== 'any',
  };
}

function lengthRule(length: Expression, text: string, setting: KindSetting): LengthRule {
  if (length.kind === 'name') {
    if (Object.hasOwn(NUMBERS, length.name)) {
      if (!length.name.startsWith('u'))
        throw invalidKind(`${length.name} cannot count a text`, 'u8 to u64, varint', setting);
      return { kind: 'prefix', name: length.name, number: NUMBERS[length.name]! };
    }
    if (VARINT_NAMES.includes(length.name)) return { kind: 'prefix', name: length.name, number: undefined };
    if (length.name === 'zero') return { kind: 'ended', end: 0 };
    if (length.name === 'rest') return { kind: 'rest' };
  }
  if (length.kind === 'call' && length.name === 'until') {
    const [end] = length.args;
    if (end?.kind !== 'number' || length.args.length > 1 || end.value < 0 || end.value > 0xffff)
      throw invalidKind('until wants the number of the code unit that ends a text', 'until(0x0A)', setting);
    return { kind: 'ended', end: Number(end.value) };
  }
  const formula = setting.formula(length, text);
  return { kind: 'fixed', length: formula, constant: length.kind === 'number' ? Number(length.value) : undefined };
}

function readLength(
  cursor: Cursor,
  rule: TextRule,
  codec: TextCodec,
  setting: KindSetting,
  context: ReadContext,
): number {
  const { length } = rule;
  const { unit } = codec;
  switch (length.kind) {
    case 'ended':
      return untilEnd(cursor, codec, length.end);
    case 'rest':
      return cursor.left;
    case 'prefix': {
      const count =
        length.number === undefined
          ? readVarint(length.name, cursor)
          : length.number.read(cursor, isLittle(setting.numbers, context.scope));
      return wholeNumber(count, 'the length of the text') * (rule.countsBytes ? 1 : unit);
    }
    case 'fixed':
      return length.constant ?? wholeNumber(length.length.evaluate(context.scope), 'the length of the text');
    default:
      return length satisfies never;
  }
}

function checkTextLimit(size: number, cursor: Cursor, context: ReadContext): void {
  if (size <= context.limits.maxTextBytes) return;
  throw new LimitError({
    code: 'limit-reached',
    what: 'a text is too long',
    offset: cursor.offset,
    found: `${size.toLocaleString('en')} bytes`,
    limit: `maxTextBytes, ${context.limits.maxTextBytes.toLocaleString('en')}`,
  });
}

/** Behind the end of a fixed text is what fills it, and nothing else. */
function checkEnd(
  bytes: Uint8Array,
  from: number,
  size: number,
  fill: number,
  unit: number,
  context: ReadContext,
): void {
  // With a fill of its own a text ends where the fill begins, so that nothing else can be there.
  if (fill !== 0) return;
  const end = from + size;
  let at = from;
  while (at < end && (bytes[at] !== 0 || (unit === 2 && bytes[at + 1] !== 0))) at += unit;
  const tail = at;
  while (at < end && bytes[at] === 0) at++;
  if (at >= end) return;
  context.remark ??= {
    what: 'there are other bytes after the end of a text',
    expected: 'zeros up to the end of the field (say rest: any where that is no fault)',
    found: hexBytes(bytes.subarray(tail, end), 8),
  };
}

/** The text itself: a fixed one ends at its first zero, or where its fill begins. */
function trimmed(stretch: Uint8Array, rule: TextRule, unit: number): Uint8Array {
  if (rule.length.kind === 'prefix' && rule.countsZero)
    return endsInZero(stretch, unit) ? stretch.subarray(0, stretch.length - unit) : stretch;
  if (rule.length.kind !== 'fixed') return stretch;
  if (rule.fill !== 0) {
    let end = stretch.length;
    while (end > 0 && stretch[end - 1] === rule.fill) end--;
    return stretch.subarray(0, end);
  }
  for (let at = 0; at + unit <= stretch.length; at += unit)
    if (stretch[at] === 0 && (unit === 1 || stretch[at + 1] === 0)) return stretch.subarray(0, at);
  return stretch;
}

function endsInZero(stretch: Uint8Array, unit: number): boolean {
  return stretch.length >= unit && stretch.subarray(stretch.length - unit).every((byte) => byte === 0);
}

/** The bytes of one code unit. */
function unitBytes(value: number, codec: TextCodec): Uint8Array {
  return codec.unit === 1 ? Uint8Array.of(value) : codec.encode(String.fromCharCode(value));
}

/** Where the unit that ends a text is, from a place on; -1 when it does not. */
function endFrom(bytes: Uint8Array, from: number, codec: TextCodec, end: number): number {
  if (codec.unit === 1) return bytes.indexOf(end, from);
  const [first, second] = unitBytes(end, codec);
  for (let at = from; at + 1 < bytes.length; at += 2) if (bytes[at] === first && bytes[at + 1] === second) return at;
  return -1;
}

/** @throws FormatError `layout-impossible` when a text holds what would end it */
function checkWithin(bytes: Uint8Array, codec: TextCodec, end: number, value: Value): void {
  if (endFrom(bytes, 0, codec, end) < 0) return;
  const shown = `0x${end.toString(16).toUpperCase().padStart(2, '0')}`;
  throw new FormatError({
    code: 'layout-impossible',
    what: `${showValue(value)} does not fit its field`,
    expected: `a text without ${shown}, which ends it`,
    found: `${shown} within the text`,
  });
}

function untilEnd(cursor: Cursor, codec: TextCodec, end: number): number {
  const found = endFrom(cursor.bytes, cursor.position, codec, end);
  if (found >= 0) return found - cursor.position;
  // Asking for more than there is makes the right fault, or fetches more of the file.
  cursor.advance(cursor.left + 1);
  return 0;
}

function tooLong(found: string, expected: string, value: Value): FormatError {
  return new FormatError({
    code: 'layout-impossible',
    what: `${showValue(value)} does not fit its field`,
    expected,
    found,
  });
}

function textValue(value: Value): string {
  if (typeof value === 'string') return value;
  // Absent values of a new row are empty texts.
  if (value === undefined || value === 0) return '';
  throw new FormatError({ code: 'layout-impossible', what: 'the value is not a text', found: showValue(value) });
}

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
