'use client';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { FaultNote } from '../../shared/states';
import { fileAt } from '../../shared/api';

interface Heard {
  /** In seconds. */
  readonly length: number;
  /** How loud each of {@link CELLS} equal stretches of `length` is, 0 to 1. */
  readonly peaks: readonly number[];
}

const CELLS = 400;
const HEIGHT = 96;

/** The outlines of two sounds on one line of time. */
export function SoundsOverlaid({
  urls,
  labels,
}: {
  urls: readonly [string, string];
  labels: readonly [string, string];
}) {
  const { data, error } = useQuery({
    queryKey: ['outlines', ...urls],
    queryFn: () => Promise.all(urls.map(heard)),
    retry: false,
    staleTime: Infinity,
  });
  if (error !== null) return <FaultNote>They cannot be overlaid: {error.message}</FaultNote>;
  if (data === undefined) return <Box sx={{ height: HEIGHT + 24 }} />;
  const longest = Math.max(...data.map(({ length }) => length), 0.001);
  const [before, after] = data as [Heard, Heard];
  const longer = after.length - before.length;
  return (
    <Box>
      <svg
        role="img"
        aria-label={`The outlines of ${labels.join(' and ')} over each other`}
        viewBox={`0 0 ${CELLS} ${HEIGHT}`}
        preserveAspectRatio="none"
        style={{ width: '100%', height: HEIGHT, display: 'block', background: 'var(--sheet)' }}
      >
        {data.map((one, i) => (
          <path
            key={labels[i]}
            d={outline(one, longest)}
            fill={COLOURS[i]}
            fillOpacity={i === 0 ? 0.55 : 0.3}
            stroke={COLOURS[i]}
            strokeWidth={1}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      <Box className="dim" sx={{ display: 'flex', gap: 2, flexWrap: 'wrap', mt: 0.5 }}>
        {data.map((one, i) => (
          <Box key={labels[i]} component="span" sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.75 }}>
            <Box component="span" sx={{ width: 10, height: 10, borderRadius: '2px', background: COLOURS[i] }} />
            {labels[i]}, {one.length.toFixed(2)} s
          </Box>
        ))}
        <span>
          {Math.abs(longer) < 0.005
            ? 'equally long'
            : `${labels[1]} is ${Math.abs(longer).toFixed(2)} s ${longer > 0 ? 'longer' : 'shorter'}`}
        </span>
      </Box>
    </Box>
  );
}

const COLOURS = ['var(--brass)', 'var(--teal)'] as const;

async function heard(url: string): Promise<Heard> {
  const answer = await fileAt(url);
  const buffer = await new OfflineAudioContext(1, 1, 48_000).decodeAudioData(await answer.arrayBuffer());
  const samples = buffer.getChannelData(0);
  const peaks = Array.from({ length: CELLS }, (_, cell) => {
    let peak = 0;
    const to = Math.floor(((cell + 1) / CELLS) * samples.length);
    for (let i = Math.floor((cell / CELLS) * samples.length); i < to; i++) peak = Math.max(peak, Math.abs(samples[i]!));
    return Math.min(1, peak);
  });
  return { length: buffer.duration, peaks };
}

/** Above and below a line in the middle, as an SVG path. */
function outline({ length, peaks }: Heard, longest: number): string {
  const x = (cell: number) => ((cell / CELLS) * (length / longest) * CELLS).toFixed(1);
  const y = (peak: number, side: 1 | -1) => (HEIGHT / 2 - (side * peak * HEIGHT) / 2).toFixed(1);
  const upper = peaks.map((peak, cell) => `${x(cell)} ${y(peak, 1)}`);
  const lower = peaks.map((peak, cell) => `${x(cell)} ${y(peak, -1)}`).reverse();
  return `M${[...upper, ...lower].join('L')}Z`;
}
