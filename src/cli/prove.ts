import { fileScratch } from '../core/bytes/node';
import { sayFault, type Fault } from '../core/faults';
import { isProven, prove, type Proof } from '../core/recipe';
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
  ].join('');
}
