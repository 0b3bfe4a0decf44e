/** Comparing every computed field with its formula: what proves, on reading, that the recipe could write the file. */
import { FaultError, throwIfStopped, type Fault } from '../../faults';
import type { Field, Shape } from '../model';
import { ChoiceColumn, instanceOf, itemsOf, ShapeColumn, type Column } from '../read/columns';
import type { OpenedArchive } from '../read/opened-archive';
import type { FoundRegion } from '../read/read-region';
import type { Table } from '../read/table';
import { DeepCheck, looksInto, type Deferred, type FormulaCheckOptions } from './deep-check';
import { FieldComparison } from './field-comparison';
import { asksNoEntry, fieldOffset, isFree } from './field-formulas';
import { RowContext } from './row-context';
import { planOf, type ShapePlan } from './shape-plan';
import { Tally } from './tally';

export interface FormulaCheck {
  readonly agree: number;
  readonly total: number;
  /** The first that disagree, and one of each kind. */
  readonly faults: readonly Fault[];
  /** How many disagree, by the line of their formula in the recipe. */
  readonly differing: ReadonlyMap<number, number>;
  /** False when formulas over bytes were left out: a deep check would compare more. */
  readonly isWhole: boolean;
}

/** Evaluates the formula of every field of every row and compares. */
export async function checkFormulas(archive: OpenedArchive, options: FormulaCheckOptions): Promise<FormulaCheck> {
  const check = new Check(archive, options);
  for (const found of archive.regions.values()) await check.region(found);
  check.entries();
  if (options.deep !== false) await check.deep();
  return check.result();
}

/** True when a row of a column holds instances of shapes. */
function holdsRows(column: Column, row: number): boolean {
  return instanceOf(column, row) !== undefined || itemsOf(column, row) !== undefined;
}

class Check {
  private isWhole = true;
  private readonly tally = new Tally();
  private readonly deferred: Deferred[] = [];
  private readonly plans = new Map<Shape, ShapePlan>();
  private readonly context: RowContext;
  private readonly comparison: FieldComparison;

  constructor(
    private readonly archive: OpenedArchive,
    private readonly options: FormulaCheckOptions,
  ) {
    this.context = new RowContext(archive);
    this.comparison = new FieldComparison(archive, this.context, this.tally);
    if (archive.recipe.entries.wrap !== undefined) this.isWhole = options.deep === true;
  }

  result(): FormulaCheck {
    const { agree, total, faults, differing } = this.tally;
    return { agree, total, faults, differing, isWhole: this.isWhole };
  }

  deep(): Promise<void> {
    const { archive, options, context, comparison, tally } = this;
    return new DeepCheck(archive, options, context, comparison, tally).compare(this.deferred);
  }

  async region(found: FoundRegion): Promise<void> {
    if (found.column === undefined) return;
    this.context.scope.volume = found.volume;
    const { region } = found;
    const place = { region: region.name, ...(found.unlocked ? { within: region.name } : {}) };
    this.value(found.column, 0, -1, -1, place);
  }

  /** Walks what lies in one row of a column. */
  private value(column: Column, row: number, entry: number, folder: number, place: Partial<Fault>): void {
    if (column instanceof ChoiceColumn) {
      const chosen = column.chosenColumn(row);
      if (chosen !== undefined) this.value(chosen, row, entry, folder, place);
      return;
    }
    const instance = instanceOf(column, row);
    if (instance !== undefined) {
      const { table } = instance;
      return this.comparison.guarded(
        () => this.instance(table, instance.row, entry, folder, place),
        () => ({ ...place, line: table.shape.line, offset: table.start(instance.row) }),
      );
    }
    const items = itemsOf(column, row);
    if (items === undefined) return;
    if (!(items.column instanceof ShapeColumn || items.column instanceof ChoiceColumn)) return;
    if (this.isIdle(items.column, items.count)) return;
    const outer = this.context.scope.index;
    for (let i = 0; i < items.count; i++) {
      if (i % 4096 === 0) throwIfStopped(this.options.signal);
      this.context.scope.index = i;
      this.value(items.column, items.first + i, entry, folder, place);
    }
    this.context.scope.index = outer;
  }

  /** Rows whose formulas cannot disagree are counted without looking at them. */
  private isIdle(column: Column, count: number): boolean {
    if (!(column instanceof ShapeColumn)) return false;
    const { table } = column;
    const plan = this.planOf(table.shape);
    if (
      plan.plain.length + plan.nested.length + plan.checked.length > 0 ||
      (this.options.deep !== false && plan.deep.length > 0)
    )
      return false;
    if (plan.given.some((field) => field.when !== undefined)) return false;
    if (table === this.archive.entries.rows && this.archive.entries.damaged > 0) return false;
    const rows = table === this.archive.entries.rows ? Math.min(count, this.archive.entries.count) : count;
    this.tally.addAgreeing(rows * plan.given.length);
    return true;
  }

  private planOf(shape: Shape): ShapePlan {
    const known = this.plans.get(shape);
    if (known !== undefined) return known;
    const plan = planOf(shape, this.archive);
    this.plans.set(shape, plan);
    if (plan.deep.length > 0 && this.options.deep !== true) this.isWhole = false;
    return plan;
  }

  private instance(table: Table, row: number, outerEntry: number, outerFolder: number, place: Partial<Fault>): void {
    const { archive, context } = this;
    const { scope } = context;
    const { entry, folder, block, isEntryRow } = context.of(table, row, outerEntry, outerFolder);
    const damage = isEntryRow && entry >= 0 ? archive.entries.damage(entry) : undefined;
    if (damage !== undefined) throw new FaultError(damage);
    const plan = this.planOf(table.shape);
    const fields = table.row(row);
    const outer = scope.fields;
    if (outer !== undefined) scope.outer.push(outer);
    const enter = () => {
      scope.fields = fields;
      this.context.enter(entry, folder);
      if (block !== undefined) scope.block = block;
    };
    enter();
    // Rows of the table that are no entries have only the formulas that ask nothing of an entry.
    const skip = !isEntryRow && (table !== archive.entries.rows || archive.recipe.entries.each.shape === table.shape);
    if (skip) {
      for (const field of plan.plain) if (isFree(field)) this.comparison.compare(table, row, field, place);
      for (const field of plan.checked)
        if (field.checks.every(({ that }) => asksNoEntry(that))) this.conditions(table, row, field, place);
      if (this.options.deep !== false)
        for (const field of plan.deep)
          if (isFree(field))
            this.deferred.push({ table, row, field, entry, folder, place, volume: this.context.scope.volume });
    } else {
      for (const field of plan.given) {
        if (table.columns[field.index]!.get(row) === undefined) continue;
        this.tally.addAgreeing(1);
      }
      for (const field of plan.plain) this.comparison.compare(table, row, field, place);
      for (const field of plan.checked) this.conditions(table, row, field, place);
      if (looksInto(this.options.deep, entry))
        for (const field of plan.deep)
          this.deferred.push({ table, row, field, entry, folder, place, volume: this.context.scope.volume });
    }
    scope.block = undefined;
    for (const field of plan.nested) {
      const column = table.columns[field.index]!;
      if (!holdsRows(column, row)) continue;
      enter();
      this.value(column, row, entry, folder, place);
    }
    if (outer !== undefined) scope.outer.pop();
    scope.fields = outer;
  }

  /** The recipe's own conditions, at a field that is there. */
  private conditions(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    if (field.when !== undefined && table.columns[field.index]!.get(row) === undefined) return;
    for (const check of field.checks) {
      const where = () => ({ ...place, field: field.name, offset: fieldOffset(table, row, field) });
      this.comparison.guarded(
        () => this.comparison.condition(check, where),
        () => ({ ...where(), line: check.that.line }),
      );
    }
  }

  /** Conditions that hold for every entry. */
  entries(): void {
    const { archive } = this;
    const { entries, recipe } = archive;
    if (recipe.entries.checks.length === 0) return;
    for (let entry = 0; entry < entries.count; entry++) {
      if (entry % 4096 === 0) throwIfStopped(this.options.signal);
      if (entries.damage(entry) !== undefined) continue;
      this.context.enter(entry, -1);
      const place = () => ({ entry: entries.path(entry), offset: entries.rows.start(entries.row(entry)) });
      for (const check of recipe.entries.checks)
        this.comparison.guarded(
          () => this.comparison.condition(check, place),
          () => ({ ...place(), line: check.that.line }),
        );
    }
    this.context.enter(-1, -1);
  }
}
