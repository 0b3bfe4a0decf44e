/** A field and its formula, compared. */
import { FaultError, type Fault } from '../../faults';
import { bitsOf } from '../formula/bits';
import { isList, sameValue, truthy, type Value } from '../formula/value';
import { showValue } from '../formula/show-value';
import type { Check as Condition, Field, Formula, Part } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import type { Table } from '../read/table';
import { fieldOffset } from './field-formulas';
import type { RowContext } from './row-context';
import type { Tally } from './tally';

function usesPath({ uses }: Formula): boolean {
  return uses.entry.has('path') || uses.entry.has('name') || uses.entry.has('folder');
}

export class FieldComparison {
  constructor(
    private readonly archive: OpenedArchive,
    private readonly context: RowContext,
    private readonly tally: Tally,
  ) {}

  compare(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    this.guarded(
      () => this.compareField(table, row, field, place),
      () => ({
        ...place,
        line: field.is?.line ?? field.line,
        field: field.name,
        offset: fieldOffset(table, row, field),
      }),
    );
  }

  private compareField(table: Table, row: number, field: Field, place: Partial<Fault>): void {
    const column = table.columns[field.index]!;
    const found = column.get(row);
    if (found === undefined) return;
    const { scope } = this.context;
    scope.here = table.markedStart(field.index, row);
    if (field.is !== undefined) {
      if (isList(found)) this.compareList(table, row, field, found, place);
      else {
        scope.found = found;
        this.tally.add(sameValue(found, field.is.evaluate(scope)), field.is.line, () =>
          this.fault(table, row, field, field.is!, found, place),
        );
      }
    }
    for (const part of field.parts) if (part.is !== undefined) this.comparePart(table, row, field, part, found, place);
    scope.found = undefined;
  }

  private comparePart(table: Table, row: number, field: Field, part: Part, whole: Value, place: Partial<Fault>): void {
    const found = bitsOf(whole, part.shift, part.width);
    this.context.scope.found = found;
    const expected = part.is!.evaluate(this.context.scope);
    this.tally.add(sameValue(found, typeof expected === 'boolean' ? Number(expected) : expected), part.line, () => ({
      ...this.fault(table, row, field, part.is!, found, place),
      field: `${field.name}.${part.name}`,
      line: part.line,
    }));
  }

  /** A list with a formula has it for each of its items; items of blocks see their block. */
  private compareList(table: Table, row: number, field: Field, found: Value, place: Partial<Fault>): void {
    if (!isList(found)) return;
    const { archive } = this;
    const { scope } = this.context;
    const outer = scope.index;
    const entry = scope.entry?.index ?? -1;
    const blocks = archive.recipe.entries.blocks !== undefined && entry >= 0 ? this.context.blocks(entry) : undefined;
    for (let i = 0; i < found.length; i++) {
      scope.index = i;
      scope.block = blocks?.[i];
      const item = found.at(i);
      scope.found = item;
      this.tally.add(sameValue(item, field.is!.evaluate(scope)), field.is!.line, () => ({
        ...this.fault(table, row, field, field.is!, item, place),
        field: `${field.name}[${i}]`,
      }));
    }
    scope.block = undefined;
    scope.index = outer;
  }

  private fault(table: Table, row: number, field: Field, formula: Formula, found: Value, place: Partial<Fault>): Fault {
    const { archive } = this;
    // A path that cannot be read is the reason why nothing agrees with it.
    const damage = usesPath(formula) ? archive.entries.pathDamage(this.context.scope.entry?.index ?? -1) : undefined;
    if (damage !== undefined) return { file: archive.source.name, recipe: archive.recipe.id, ...place, ...damage };
    let expected: Value;
    try {
      expected = formula.evaluate(this.context.scope);
    } catch {
      expected = undefined;
    }
    return {
      code: 'formula-differs',
      file: archive.source.name,
      recipe: archive.recipe.id,
      line: formula.line,
      ...place,
      field: table.length > 1 ? `${table.shape.name}[${row}].${field.name}` : field.name,
      offset: fieldOffset(table, row, field),
      expected: `${showValue(expected)} = ${formula.text}`,
      found: showValue(found),
    };
  }

  /** A condition of the recipe's own. */
  condition({ that, say }: Condition, place: () => Partial<Fault>): void {
    this.tally.add(truthy(that.evaluate(this.context.scope)), that.line, () => ({
      code: 'must-differs',
      file: this.archive.source.name,
      recipe: this.archive.recipe.id,
      ...place(),
      line: that.line,
      what: say,
      expected: that.text,
      found: 'that it does not hold',
    }));
  }

  /** What cannot be compared disagrees, with its place. */
  guarded(work: () => void, place: () => Partial<Fault>): void {
    const { archive } = this;
    const { scope } = this.context;
    const { outer, fields, index } = scope;
    const levels = outer.length;
    try {
      work();
    } catch (error) {
      if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
      outer.length = levels;
      Object.assign(scope, { fields, index, found: undefined, block: undefined });
      const fault = { file: archive.source.name, recipe: archive.recipe.id, ...place(), ...error.fault };
      this.tally.add(false, fault.line ?? archive.recipe.entries.line, () => fault);
    }
  }
}
