/**
 * Formulas as a graph over the new file: within one round each field is worked out once, a field that needs itself is
 * named with all that lie on the way, and long ways, such as running sums over many rows, take no deep recursion.
 */
import { FormatError } from '../../../faults';
import type { Value } from '../../formula/value';
import type { Field } from '../../model';
import type { Table } from '../../read/table';

/** How many fields may wait for each other at once: each takes a dozen calls of the stack. */
const MOST_WAITING = 150;

/** A field to be worked out, and the way to do it. */
interface Job {
  readonly owner: unknown;
  readonly field: Field;
  work(): Value;
}

/** Thrown when too many fields wait: the last of them is worked out first, and then all again. */
class TooDeep {
  constructor(readonly job: Job) {}
}

export class Graph {
  /** Values last for a round of laying out. */
  round = 0;
  private readonly values = new Map<Table, Map<number, Map<number, Value>>>();
  private readonly waiting: Job[] = [];
  private waitingRows: Set<string> | undefined;

  constructor(private readonly recipe: string) {}

  /** Forgets all values. */
  begin(): void {
    this.round++;
    this.values.clear();
  }

  /** The value of a field of a row that was found. */
  shared(table: Table, row: number, field: Field, work: () => Value, again: () => Value): Value {
    let fields = this.values.get(table);
    if (fields === undefined) this.values.set(table, (fields = new Map()));
    let rows = fields.get(field.index);
    if (rows === undefined) fields.set(field.index, (rows = new Map()));
    if (rows.has(row)) return rows.get(row);
    const key = `${table.id}.${field.index}.${row}`;
    const waiting = (this.waitingRows ??= new Set());
    if (waiting.has(key)) throw this.circular(field);
    waiting.add(key);
    try {
      const value = this.once({ owner: key, field, work: again }, work, true);
      rows.set(row, value);
      return value;
    } finally {
      waiting.delete(key);
    }
  }

  /**
   * The value of a field, which must not need itself.
   *
   * @param job works the field out from the start, later
   * @param lasts the value is remembered, so that working it out beforehand helps
   */
  once(job: Job, work: () => Value, lasts: boolean): Value {
    const { waiting } = this;
    const { owner, field } = job;
    if (waiting.some((one) => one.owner === owner && one.field === field)) throw this.circular(field);
    if (lasts && waiting.length >= MOST_WAITING) throw new TooDeep(job);
    waiting.push(job);
    const depth = waiting.length;
    try {
      return depth > 1 ? work() : this.unwound({ owner, field, work });
    } finally {
      waiting.length = depth - 1;
    }
  }

  /** Works out first what lies too deep. */
  private unwound(job: Job): Value {
    const jobs = [job];
    for (;;) {
      try {
        const value = jobs.at(-1)!.work();
        jobs.pop();
        if (jobs.length === 0) return value;
      } catch (error) {
        if (!(error instanceof TooDeep)) throw error;
        const { owner, field } = error.job;
        if (jobs.some((one) => one.owner === owner && one.field === field)) throw this.circular(field);
        jobs.push(error.job);
      }
    }
  }

  /** @param field the one that was asked for again */
  private circular(field: Field): FormatError {
    const from = this.waiting.findIndex((one) => one.field === field);
    const round = [...new Set(this.waiting.slice(Math.max(0, from)).map((one) => one.field))];
    const names = round.map((one) => `${one.name} (line ${one.line})`);
    return new FormatError({
      code: 'recipe-circular',
      recipe: this.recipe,
      line: field.line,
      field: field.name,
      what:
        round.length < 2
          ? `the formula of ${field.name} needs ${field.name} itself`
          : `the formulas of ${names.join(', ')} need each other`,
    });
  }
}
