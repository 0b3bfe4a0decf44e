import { sayFault } from '../../core/faults';
import { editsHold, isProven, type Proof } from '../../core/recipe';
import type { ProofAnswer } from '../shapes';

/** The parts of a proof, with the first thing wrong of each. */
export function proofAnswer(proof: Proof | null): ProofAnswer | null {
  if (proof === null) return null;
  const { bytes, formulas, identical, changed } = proof;
  // Proofs that were kept before there were edits in them have none.
  const edits = (proof as Partial<Proof>).edits ?? { done: 0, total: 0, edits: [] };
  const holds = editsHold(edits);
  return {
    bytes: { explained: bytes.explained, total: bytes.total },
    formulas: { agree: formulas.agree, total: formulas.total },
    identical: identical.same,
    changed: { equal: changed.equal, tested: changed.tested, total: changed.total },
    edits: {
      ...{ done: edits.done, total: edits.total, holds },
      forbidden: holds && edits.first !== undefined ? sayFault(edits.first) : null,
    },
    proven: isProven({ ...proof, edits }),
    firsts: [bytes.first, formulas.first, identical.first, changed.first, holds ? undefined : edits.first].flatMap(
      (fault) => (fault === undefined ? [] : [sayFault(fault)]),
    ),
  };
}
