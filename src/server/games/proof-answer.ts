import { sayFault } from '../../core/faults';
import { isProven, type Proof } from '../../core/recipe';
import type { ProofAnswer } from '../shapes';

/** The four numbers of a proof, with the first thing wrong of each. */
export function proofAnswer(proof: Proof | null): ProofAnswer | null {
  if (proof === null) return null;
  const { bytes, formulas, identical, changed } = proof;
  return {
    bytes: { explained: bytes.explained, total: bytes.total },
    formulas: { agree: formulas.agree, total: formulas.total },
    identical: identical.same,
    changed: { equal: changed.equal, tested: changed.tested, total: changed.total },
    proven: isProven(proof),
    firsts: [bytes.first, formulas.first, identical.first, changed.first].flatMap((fault) =>
      fault === undefined ? [] : [sayFault(fault)],
    ),
  };
}
