/** Time stamps as milliseconds since 1970, whatever the file counts in. */
import { FormatError } from '../../faults';
import { isNumeric, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { FieldKind } from '../model';
import type { Column } from '../read/columns';
import { fromDos, toDos } from './dos-time';
import { NUMBERS, numberKind } from './number-kinds';
import type { KindSetting } from './setting';

interface Clock {
  readonly number: string;
  readonly about: string;
  toMs(value: number | bigint): number;
  fromMs(ms: number): number | bigint;
}

/** Milliseconds from 1601-01-01 to 1970-01-01. */
const FILETIME_EPOCH_MS = 11_644_473_600_000;

const CLOCKS: Readonly<Record<string, Clock>> = {
  unix: {
    number: 'u32',
    about: 'seconds since 1970, 32 bits',
    toMs: (v) => Number(v) * 1000,
    fromMs: (ms) => Math.floor(ms / 1000),
  },
  'unix-64': {
    number: 'i64',
    about: 'seconds since 1970, 64 bits',
    toMs: (v) => Number(v) * 1000,
    fromMs: (ms) => Math.floor(ms / 1000),
  },
  'unix-ms': {
    number: 'u64',
    about: 'milliseconds since 1970, 64 bits',
    toMs: (v) => Number(v),
    fromMs: (ms) => Math.floor(ms),
  },
  filetime: {
    number: 'u64',
    about: 'steps of 100 nanoseconds since 1601, 64 bits',
    toMs: (v) => Number(BigInt(v) / 10_000n) - FILETIME_EPOCH_MS,
    fromMs: (ms) => BigInt(Math.floor(ms) + FILETIME_EPOCH_MS) * 10_000n,
  },
  dos: { number: 'u32', about: 'MS-DOS date and time, 32 bits', toMs: (v) => fromDos(Number(v)), fromMs: toDos },
};

export const CLOCK_NAMES: readonly string[] = Object.keys(CLOCKS);

export function timeKind(name: string, setting: KindSetting): FieldKind {
  const clock = CLOCKS[name]!;
  const inner = numberKind(clock.number, NUMBERS[clock.number]!, setting);
  return {
    ...inner,
    text: `time(${name})`,
    makeColumn: (tables) => timeColumn(inner.makeColumn(tables), clock),
    read: (cursor, column, row, context) => inner.read(cursor, (column as TimeColumn).inner, row, context),
    write: (writer, value, scope) => {
      if (value !== undefined && !isNumeric(value) && !(typeof value === 'object' && 'raw' in value))
        throw new FormatError({ code: 'layout-impossible', what: 'the value is no time', found: showValue(value) });
      const raw = rawOf(value);
      inner.write(writer, raw ?? (value === undefined ? 0 : clock.fromMs(Number(value))), scope);
    },
  };
}

interface TimeColumn extends Column {
  readonly inner: Column;
}

/** The number as it stood in the file: a time in milliseconds cannot hold all of it. */
interface RawTime {
  readonly raw: number | bigint;
}

function rawOf(value: Value): number | bigint | undefined {
  return typeof value === 'object' && 'raw' in value ? (value as unknown as RawTime).raw : undefined;
}

function timeColumn(inner: Column, clock: Clock): TimeColumn {
  return {
    inner,
    reserve: (rows) => inner.reserve(rows),
    putAbsent: (row) => inner.putAbsent(row),
    get: (row) => {
      const value = inner.get(row);
      return value === undefined ? undefined : clock.toMs(value as number);
    },
    kept: (row) => {
      const value = inner.kept(row);
      return value === undefined ? undefined : ({ raw: value } as unknown as Value);
    },
  };
}
