'use client';
import type { BuildAnswer } from '../../server/shapes';
import { count } from '../shared/format';
import { Part } from '../shared/states';
import { Line } from './Line';

export function Proof({ build, proof }: { build: BuildAnswer; proof: BuildAnswer['proof'] }) {
  if (proof === null)
    return build.how === 'loose' ? (
      <Part title="Proof of the built files">
        <Line ok text="Loose files are your own, byte for byte" note={count(build.files.length)} />
      </Part>
    ) : null;
  return (
    <Part title="Proof of the built files">
      <Line
        ok={proof.bytes.explained === proof.bytes.total}
        text="Bytes explained"
        note={`${count(proof.bytes.explained)} of ${count(proof.bytes.total)}`}
      />
      <Line
        ok={proof.formulas.agree === proof.formulas.total}
        text="Computed fields agree"
        note={`${count(proof.formulas.agree)} of ${count(proof.formulas.total)}`}
      />
      <Line ok={proof.identical} text="Rebuilds identically" note={proof.identical ? 'yes' : 'no'} />
      {proof.edits.total > 0 && (
        <Line
          ok={proof.edits.holds}
          text="Further edits can be made"
          note={`${count(proof.edits.done)} of ${count(proof.edits.total)}`}
        />
      )}
      <Line ok text="Changed entries are what was meant" note={count(build.changes)} />
      <Line
        ok
        text={
          build.how === 'patch' || build.how === 'loose'
            ? 'The game’s own archives are not touched'
            : 'Everything else is byte for byte as it was'
        }
        note=""
      />
    </Part>
  );
}
