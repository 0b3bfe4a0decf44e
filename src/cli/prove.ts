import { fileScratch } from '../core/bytes/node';
import { sayFault, type Fault } from '../core/faults';
import { EDIT_WORDS, isProven, prove, type EditProof, type Proof } from '../core/recipe';
import { withOpened, type ArchiveOptions } from './archive-options';

export async function proveFiles(
  files: readonly string[],
  options: ArchiveOptions & { json?: boolean },
): Promise<void> {
  await withOpened(files, options, async (archive) => {
    const scratch = fileScratch();
    try {
      const proof = await prove(archive, { scratch });
      process.stdout.write(options.json === true ? `${JSON.stringify(proof)}\n` : inWords(proof));
      if (!isProven(proof)) process.exitCode = 1;
    } finally {
      await scratch.release();
    }
  });
}

function inWords(proof: Proof): string {
  const line = (text: string, first: Fault | undefined) =>
    first === undefined ? `${text}\n` : `${text}\n    first: ${sayFault(first)}\n`;
  const percent = ((100 * proof.bytes.explained) / Math.max(1, proof.bytes.total)).toFixed(
    proof.bytes.explained === proof.bytes.total ? 0 : 3,
  );
  return [
    line(`bytes explained      ${proof.bytes.explained} of ${proof.bytes.total} (${percent} %)`, proof.bytes.first),
    line(`formulas that agree  ${proof.formulas.agree} of ${proof.formulas.total}`, proof.formulas.first),
    line(`rebuilt unchanged    ${proof.identical.same ? 'identical' : 'differs'}`, proof.identical.first),
    line(`rebuilt changed      ${proof.changed.equal} of ${proof.changed.tested} entries equal`, proof.changed.first),
    editsInWords(proof.edits),
  ].join('');
}

/** Refused edits by their reason: it is often the same for several, in several layouts. */
function editsInWords({ done, total, edits }: EditProof): string {
  const reasons = new Map<string, { readonly what: Set<string>; readonly layouts: Set<string> }>();
  for (const { edit, layout, fault } of edits) {
    if (fault === undefined) continue;
    const sentence = sayFault(fault);
    const one = reasons.get(sentence) ?? { what: new Set(), layouts: new Set() };
    reasons.set(sentence, one);
    one.what.add(EDIT_WORDS[edit]);
    one.layouts.add(layout);
  }
  const lines = [...reasons].map(
    ([sentence, { what, layouts }]) =>
      `    cannot ${[...what].join(', ')} (${[...layouts].join(', ')}), because: ${sentence}\n`,
  );
  return `edits                ${done} of ${total} done and read back\n${lines.join('')}`;
}
