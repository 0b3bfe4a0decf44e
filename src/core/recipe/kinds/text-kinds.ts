/** Texts: fixed, counted in front, ended by a zero; and pools of them. */
import type { Cursor } from '../../bytes';
import { FormatError, hexBytes, LimitError } from '../../faults';
import { type Value } from '../formula/value';
import { showValue, wholeNumber } from '../formula/show-value';
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

export interface TextRule {
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

export function textRule(text: string, call: Expression & { kind: 'call' }, setting: KindSetting): TextRule {
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
export function unitBytes(value: number, codec: TextCodec): Uint8Array {
  return codec.unit === 1 ? Uint8Array.of(value) : codec.encode(String.fromCharCode(value));
}

/** Where the unit that ends a text is, from a place on; -1 when it does not. */
export function endFrom(bytes: Uint8Array, from: number, codec: TextCodec, end: number): number {
  if (codec.unit === 1) return bytes.indexOf(end, from);
  const [first, second] = unitBytes(end, codec);
  for (let at = from; at + 1 < bytes.length; at += 2) if (bytes[at] === first && bytes[at + 1] === second) return at;
  return -1;
}

/** @throws FormatError `layout-impossible` when a text holds what would end it */
export function checkWithin(bytes: Uint8Array, codec: TextCodec, end: number, value: Value): void {
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
