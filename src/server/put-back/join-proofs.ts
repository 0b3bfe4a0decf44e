import type { Proof } from '../../core/recipe';

/** The proof of several archives as one; where both fail, the failure of the first is given. */
export function joinProofs(a: Proof | null, b: Proof): Proof {
  if (a === null) return b;
  const either = <T extends { first?: unknown }>(x: T, y: T) =>
    x.first === undefined ? (y.first === undefined ? {} : { first: y.first }) : { first: x.first };
  return {
    bytes: {
      explained: a.bytes.explained + b.bytes.explained,
      total: a.bytes.total + b.bytes.total,
      ...either(a.bytes, b.bytes),
    },
    formulas: {
      agree: a.formulas.agree + b.formulas.agree,
      total: a.formulas.total + b.formulas.total,
      ...either(a.formulas, b.formulas),
    },
    identical: { same: a.identical.same && b.identical.same, ...either(a.identical, b.identical) },
    changed: {
      equal: a.changed.equal + b.changed.equal,
      tested: a.changed.tested + b.changed.tested,
      total: a.changed.total + b.changed.total,
      ...either(a.changed, b.changed),
    },
    edits: {
      done: a.edits.done + b.edits.done,
      total: a.edits.total + b.edits.total,
      edits: [...a.edits.edits, ...b.edits.edits],
      ...either(a.edits, b.edits),
    },
  } as Proof;
}
