/** How many formulas agree, and the faults of those that do not. */
import type { Fault } from '../../faults';

const MAX_FAULTS = 20;

export class Tally {
  private agreeing = 0;
  private compared = 0;
  /** The first that disagree: at most {@link MAX_FAULTS}, and one of each kind. */
  readonly faults: Fault[] = [];
  /** How many disagree, by the line of their formula in the recipe. */
  readonly differing = new Map<number, number>();

  get agree(): number {
    return this.agreeing;
  }

  get total(): number {
    return this.compared;
  }

  add(agrees: boolean, line: number, fault: () => Fault): void {
    this.compared++;
    if (agrees) {
      this.agreeing++;
      return;
    }
    const count = this.differing.get(line) ?? 0;
    this.differing.set(line, count + 1);
    // One of each kind at least, however many of another there are.
    if (this.faults.length < MAX_FAULTS || count === 0) this.faults.push(fault());
  }

  addAgreeing(count: number): void {
    this.compared += count;
    this.agreeing += count;
  }

  /** Formulas that could not be compared, for a reason that has been reported. */
  addUnreadable(count: number): void {
    this.compared += count;
  }
}
