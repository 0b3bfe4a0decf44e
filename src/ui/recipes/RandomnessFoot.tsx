'use client';
import Box from '@mui/material/Box';
import { size as sizeText } from '../shared/format';

interface Props {
  readonly name: string;
  readonly size: number;
  /** Bits a byte of equal stretches. */
  readonly randomness: readonly number[] | undefined;
  readonly unexplained: readonly { readonly at: number; readonly length: number }[] | undefined;
  readonly onPick: (at: number) => void;
}

/** The whole file as one band: how random each stretch is, and under it what nothing explains yet. */
export function RandomnessFoot({ name, size, randomness, unexplained, onPick }: Props) {
  const cells = randomness ?? [];
  const left = unexplained?.reduce((sum, { length }) => sum + length, 0);
  return (
    <Box sx={{ flex: 'none', height: 66, px: 1.75, pt: 1, borderTop: '1px solid var(--line)', background: 'var(--sheet)' }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', mb: 0.75 }}>
        <span>
          <b>{name}</b>{' '}
          <span className="dim">
            how random each stretch is
            {left === undefined ? '' : left === 0 ? ' · everything is explained' : ` · ${sizeText(left)} unexplained`}
          </span>
        </span>
        <span className="dim">low → high</span>
      </Box>
      <svg
        viewBox="0 0 1000 24"
        preserveAspectRatio="none"
        role="img"
        aria-label={`How random each stretch of ${name} is`}
        style={{ display: 'block', width: '100%', height: 24, borderRadius: 3, border: '1px solid var(--line)', cursor: 'pointer' }}
        onClick={(event) => {
          const area = event.currentTarget.getBoundingClientRect();
          onPick(Math.min(size - 1, Math.floor((size * (event.clientX - area.left)) / area.width)));
        }}
      >
        {cells.map((bits, i) => (
          <rect
            key={i}
            x={(1000 * i) / cells.length}
            width={1000 / cells.length + 0.5}
            height={18}
            fill="var(--teal)"
            fillOpacity={Math.max(0.04, (bits / 8) ** 3)}
          >
            <title>{`${bits.toFixed(2)} bits a byte`}</title>
          </rect>
        ))}
        {(unexplained ?? []).map(({ at, length }) => (
          <rect key={at} x={(1000 * at) / size} width={Math.max(1, (1000 * length) / size)} y={19} height={5} fill="var(--brick)">
            <title>{`${sizeText(length)} that nothing explains`}</title>
          </rect>
        ))}
      </svg>
    </Box>
  );
}
