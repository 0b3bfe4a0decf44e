/** Reading on trial: what was read is forgotten again. */
import type { ReadContext } from '../model';

/** Remembers how far reading has come. @returns what goes back to there; the place in the bytes is the caller's */
export function undoPoint(context: ReadContext): () => void {
  const { tables, depth, scope, budget, held, remark } = context;
  const lengths = tables.lengths();
  const { rows } = budget;
  const { fields, item, index, here } = scope;
  const levels = scope.outer.length;
  return () => {
    tables.reset(lengths);
    Object.assign(context, { depth, held, remark });
    budget.rows = rows;
    Object.assign(scope, { fields, item, index, here });
    scope.outer.length = levels;
  };
}
