/** The shape around an entry's bytes: its header, and what is behind them. */
import { sliceSource, type ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import { isStretch, type Fields, type Scope } from '../formula/value';
import type { Limits } from '../limits';
import type { EntriesRule, Field } from '../model';
import { readingBudget } from './budget';
import { FileFlow } from './flow';
import { readRowFlow } from './read-row';
import { Tables, type Table } from './table';

export interface FoundWrap {
  readonly table: Table;
  readonly fields: Fields;
  /** Offset of the packed bytes behind the start of the stored ones, and their length. */
  readonly dataAt: number;
  readonly dataLength: number;
  /** Bytes of the whole instance. */
  readonly length: number;
  /** The packed bytes go on to the end of the room. */
  readonly takesRest: boolean;
}

function restOf({ kind: { type } }: Field): boolean {
  return type.kind === 'data' && type.rest;
}

/** A header is seldom longer; the bytes behind it are not wanted. */
const MOST_AT_ONCE = 1 << 12;

/**
 * Reads the instance of `wrap` that starts at `at`.
 *
 * @param room bytes it may take at the most
 * @param tables where its row goes: those of many wraps that are kept share them
 */
export async function readWrap(
  rule: EntriesRule,
  source: ByteSource,
  at: number,
  room: number,
  scope: Scope,
  limits: Limits,
  tables = new Tables(),
): Promise<FoundWrap> {
  const { wrap } = rule;
  const most = Math.min(room, source.size - at);
  if (most < 0)
    throw new FormatError({
      code: 'outside-file',
      file: source.name,
      what: 'an entry starts behind the end of its volume',
      offset: at,
      expected: `an offset up to 0x${source.size.toString(16).toUpperCase()}`,
      found: `0x${at.toString(16).toUpperCase()}`,
    });
  const table = tables.of(wrap!);
  // Offsets inside count from the start of the entry's stored bytes, so that they mean the same wherever it lies.
  const flow = new FileFlow(
    sliceSource(source, at, most, source.name),
    0,
    most,
    limits.maxRegionBytes,
    Math.min(limits.windowBytes, MOST_AT_ONCE),
  );
  const outer = { fields: scope.fields };
  scope.fields = undefined;
  const row = await readRowFlow(wrap!, table, flow, {
    scope,
    limits,
    tables,
    beyond: 0,
    depth: 0,
    held: 0,
    needed: 0,
    budget: readingBudget(limits, most),
    elsewhere: undefined,
  });
  Object.assign(scope, outer);
  const fields = table.row(row);
  const data = fields.get(rule.wrapData);
  return {
    table,
    fields,
    dataAt: isStretch(data) ? data.at : flow.position,
    dataLength: isStretch(data) ? data.length : 0,
    length: flow.position,
    takesRest: restOf(wrap!.fields[rule.wrapData]!) && isStretch(data) && data.at + data.length === flow.position,
  };
}
