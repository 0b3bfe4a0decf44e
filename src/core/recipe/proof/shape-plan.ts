/** Which of a shape's fields are compared, and when. */
import type { Field, Formula, Shape } from '../model';
import type { OpenedArchive } from '../read/opened-archive';
import { agreesByItself, usesBytes } from './field-formulas';

export interface ShapePlan {
  /** Fields that agree because the entry's property was read from them. */
  readonly given: readonly Field[];
  readonly plain: readonly Field[];
  /** Fields over bytes, which have to be read first. */
  readonly deep: readonly Field[];
  readonly nested: readonly Field[];
  /** Fields with conditions of the recipe's own. */
  readonly checked: readonly Field[];
}

export function planOf(shape: Shape, archive: OpenedArchive): ShapePlan {
  const rule = archive.recipe.entries;
  const computed = shape.fields.filter(
    (field) => field.is !== undefined || field.parts.some((part) => part.is !== undefined),
  );
  const isDeep = (formula: Formula | undefined) =>
    formula !== undefined && (formula.uses.content.length > 0 || formula.uses.late || usesBytes(formula));
  const deep = computed.filter((field) => isDeep(field.is) || field.parts.some((part) => isDeep(part.is)));
  const given = computed.filter((field) => shape === rule.each.shape && agreesByItself(field, archive));
  return {
    given,
    deep,
    plain: computed.filter((field) => !deep.includes(field) && !given.includes(field)),
    nested: shape.fields.filter((field) => (field.kind.shapes ?? []).length > 0),
    checked: shape.fields.filter((field) => field.checks.length > 0),
  };
}
