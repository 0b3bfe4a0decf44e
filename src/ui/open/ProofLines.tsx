'use client';
import Box from '@mui/material/Box';
import type { ArchiveAnswer } from '../../server/shapes';
import { count, counted } from '../shared/format';

/** The parts of the proof, short; what is wrong is in the tooltip and below the row. */
export function ProofLines({ archive }: { archive: ArchiveAnswer }) {
  const proof = archive.proof!;
  const percent = (part: number, whole: number) => (whole === 0 ? 100 : Math.floor((1000 * part) / whole) / 10);
  const lines = [
    {
      ok: proof.bytes.explained === proof.bytes.total,
      text: `${percent(proof.bytes.explained, proof.bytes.total)} % explained`,
    },
    {
      ok: proof.formulas.agree === proof.formulas.total,
      text: `${count(proof.formulas.agree)} of ${count(proof.formulas.total)} formulas`,
    },
    { ok: proof.identical, text: proof.identical ? 'rebuilds identically' : 'rebuild differs' },
    {
      ok: proof.changed.equal === proof.changed.tested,
      text: `${count(proof.changed.equal)} of ${count(proof.changed.tested)} changed and back`,
    },
    ...(proof.edits.total === 0
      ? []
      : [{ ok: proof.edits.holds, text: `${count(proof.edits.done)} of ${counted(proof.edits.total, 'edit')} made` }]),
  ];
  return (
    <Box
      component="ul"
      aria-label={`Proof of ${archive.path}`}
      title={[
        ...proof.firsts,
        ...(proof.edits.forbidden === null ? [] : [`The format forbids: ${proof.edits.forbidden}`]),
      ].join('\n')}
      sx={{ listStyle: 'none', m: 0, mt: 0.5, p: 0, fontSize: 11.5, display: 'flex', flexWrap: 'wrap', columnGap: 1.1 }}
    >
      {lines.map((line) => (
        <Box component="li" key={line.text} sx={{ color: line.ok ? 'var(--dim)' : 'var(--brick)' }}>
          {line.ok ? '✓' : '!'} {line.text}
        </Box>
      ))}
    </Box>
  );
}
