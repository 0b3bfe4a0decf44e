import Box from '@mui/material/Box';
import { useCallback, useMemo, type ReactNode } from 'react';
import type { ShareAnswer } from '../../server/shapes';
import { Chart, type ColourOf } from '../shared/Chart';
import { size } from '../shared/format';
import { Part } from '../shared/states';

interface ShareRow extends ShareAnswer {
  readonly label: string;
  readonly token?: string;
  readonly mark?: ReactNode;
  readonly narrow?: () => void;
}
const BAR = 24;
const MOST_BARS = 9;

/** Bars with their words next to them; a click narrows the list. */
export function Shares({ title, rows }: { title: string; rows: readonly ShareRow[] }) {
  const shown = useMemo(() => [...rows].sort((a, b) => b.bytes - a.bytes).slice(0, MOST_BARS), [rows]);
  const option = useCallback(
    (colour: ColourOf) => ({
      grid: { left: 0, right: 0, top: 0, bottom: 0 },
      xAxis: { type: 'value', show: false },
      yAxis: { type: 'category', show: false, inverse: true, data: shown.map(({ label }) => label) },
      series: [
        {
          type: 'bar',
          barWidth: 10,
          data: shown.map(({ bytes, token }) => ({
            value: bytes,
            itemStyle: { color: colour(token ?? 'teal'), borderRadius: [0, 3, 3, 0] },
          })),
        },
      ],
    }),
    [shown],
  );
  return (
    <Part title={title}>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 70px', columnGap: 1 }}>
        <Box>
          {shown.map(({ label, mark, count, bytes, narrow }) => (
            <OverviewLine key={label} onClick={narrow} end={size(bytes)} height={BAR}>
              {mark} {label} <span className="dim">{count.toLocaleString('en')}</span>
            </OverviewLine>
          ))}
        </Box>
        <Chart label={`${title}, as bars`} height={shown.length * BAR} option={option} />
      </Box>
      {rows.length > MOST_BARS && <Box className="dim">and {rows.length - MOST_BARS} more</Box>}
    </Part>
  );
}

/** A line with a figure at its end; a button where it leads somewhere. */
export function OverviewLine({
  onClick,
  end,
  height,
  children,
}: {
  onClick: (() => void) | undefined;
  end: string;
  height?: number;
  children: ReactNode;
}) {
  return (
    <Box
      {...(onClick === undefined ? {} : { component: 'button', type: 'button', onClick })}
      sx={{
        all: 'unset',
        boxSizing: 'border-box',
        display: 'flex',
        alignItems: 'center',
        width: '100%',
        minHeight: height ?? 24,
        gap: 1,
        cursor: onClick === undefined ? 'default' : 'pointer',
        '&:hover': onClick === undefined ? {} : { color: 'var(--teal)' },
        '&:focus-visible': { outline: '2px solid var(--teal)' },
      }}
    >
      <Box sx={{ flex: 1, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{children}</Box>
      <span className="dim">{end}</span>
    </Box>
  );
}
