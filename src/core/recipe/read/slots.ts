/** Tables of hashed slots: where the search for a row begins, and how it goes on. */
import { truthy, type Scope, type Value } from '../formula/value';
import { wholeNumber } from '../formula/show-value';
import type { Formula, SlotRule } from '../model';

export type SlotState = 'used' | 'free' | 'deleted';

/** What the formulas of a rule say of one row. */
export interface SlotRow {
  readonly state: SlotState;
  /** The number that, divided by the number of slots, leaves the slot where its search begins. */
  readonly by: bigint;
  /** How many slots further it goes on. */
  readonly step: bigint;
}

/** The formulas of a rule, in the order in which {@link slotRow} takes their values. */
export function slotFormulas({ free, deleted, by, step }: SlotRule): Formula[] {
  return [free, by, ...(deleted === undefined ? [] : [deleted]), ...(step === undefined ? [] : [step])];
}

/**
 * @param isUsed it is known to be, whatever its fields say: that of a new entry lies nowhere yet
 * @throws FormatError `must-differs` when the number of a used row is none
 */
export function slotRow({ deleted, step }: SlotRule, values: readonly Value[], isUsed = false): SlotRow {
  const [free, by, ...rest] = values;
  const isDeleted = deleted !== undefined && truthy(rest.shift());
  const state = isUsed ? 'used' : truthy(free) ? 'free' : isDeleted ? 'deleted' : 'used';
  if (state !== 'used') return { state, by: 0n, step: 1n };
  const number = (value: Value, what: string) => (typeof value === 'bigint' ? value : BigInt(wholeNumber(value, what)));
  return {
    state,
    by: number(by, 'the number of the slot of a row'),
    step: step === undefined ? 1n : number(rest.shift(), 'the step between slots'),
  };
}

/** Whether the row whose fields the scope has is in use; every row of a table without slots is. */
export function isUsedSlot(rule: SlotRule | undefined, scope: Scope): boolean {
  return [rule?.free, rule?.deleted].every((state) => state === undefined || !truthy(state.evaluate(scope)));
}

/** The slots in which a row is looked for, in order; each once at most. */
export function* probes({ by, step }: SlotRow, count: number): Generator<number> {
  const size = BigInt(count);
  let slot = ((by % size) + size) % size;
  for (let i = 0; i < count; i++) {
    yield Number(slot);
    slot = (slot + step) % size;
  }
}
