'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, type ReactNode } from 'react';
import type { KindName, OverviewAnswer, ShareAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { Chart, type ColourOf } from '../shared/Chart';
import { counted, size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { FaultNote, Part } from '../shared/states';
import { queryOf } from './use-entries';
import { listQuery, type Place } from './use-place';

interface Props {
  readonly gameId: number;
  readonly place: Place;
  readonly go: (next: Partial<Place>) => void;
  /** Adds a word to the search line. */
  readonly onNarrow: (word: string) => void;
  readonly onSelect: (entry: { archive: number; n: number }) => void;
}

const KIND_TOKENS: Readonly<Record<KindName, string>> = {
  picture: 'teal',
  sound: 'brass-mark',
  film: 'plum',
  words: 'slate',
  mesh: 'olive',
  font: 'ink',
  records: 'dim',
  bytes: 'bytes',
};
/** Colours of the folders of the map, one after the other. */
const FOLDER_TOKENS = ['teal', 'slate', 'olive', 'plum', 'brass-mark', 'dim'] as const;

/** What is listed, seen from above: by folder, kind, archive and packing; the largest, and what is there twice. */
export function Overview({ gameId, place, go, onNarrow, onSelect }: Props) {
  const query = queryOf(place);
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'overview', query],
    queryFn: ({ signal }) => call('GET games/{game}/overview', { game: gameId, query: listQuery(place), signal }),
    placeholderData: keepPreviousData,
  });
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  if (data === undefined) return <Box sx={{ flex: 1 }} />;
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', pr: 0.5 }} tabIndex={0} role="region" aria-label="Overview">
      <FolderMap data={data} place={place} go={go} />
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 3, mt: 2 }}>
        <Shares
          title="By kind"
          rows={data.kinds.map((share) => ({
            ...share,
            label: KIND_WORDS[share.kind].many,
            token: KIND_TOKENS[share.kind],
            mark: <KindMark kind={share.kind} />,
            narrow: () => onNarrow(`kind:${share.kind}`),
          }))}
        />
        <Shares
          title="By archive"
          rows={data.archives.map((share) => ({
            ...share,
            label: share.name,
            narrow: () => go({ archive: share.archive }),
          }))}
        />
        <Shares title="By packing" rows={data.methods.map((share) => ({ ...share, label: share.name }))} />
        <Part title="Unexplained bytes">
          {data.unexplained.length === 0 ? (
            <Box className="dim">None, in the archives that are proven.</Box>
          ) : (
            data.unexplained.map(({ archive, path, bytes }) => (
              <Line key={archive} onClick={() => go({ archive })} end={size(bytes)}>
                {visible(path)}
              </Line>
            ))
          )}
        </Part>
        <Part title="Largest entries">
          {data.biggest.slice(0, 12).map((entry) => (
            <Line key={`${entry.archive}.${entry.n}`} onClick={() => onSelect(entry)} end={size(entry.size)}>
              <KindMark kind={entry.kind} /> {visible(entry.path)}
            </Line>
          ))}
        </Part>
        <Part title="Duplicates">
          {data.duplicates.length === 0 ? (
            <Box className="dim">Nothing, as far as the archives keep checksums.</Box>
          ) : (
            <>
              <Box className="dim" sx={{ mb: 0.5 }}>
                {size(data.duplicateBytes)} could be saved, by the archives’ checksums.
              </Box>
              {data.duplicates.slice(0, 12).map(({ count, size: each, entries: [first] }) => (
                <Line
                  key={`${first!.archive}.${first!.n}`}
                  onClick={() => onSelect(first!)}
                  end={`${count} × ${size(each)}`}
                >
                  <KindMark kind={first!.kind} /> {visible(first!.path)}
                </Line>
              ))}
            </>
          )}
        </Part>
      </Box>
    </Box>
  );
}

/** Folders as areas as large as their bytes; a click goes into one. */
function FolderMap({ data, place, go }: { data: OverviewAnswer; place: Place; go: Props['go'] }) {
  const option = useCallback(
    (colour: ColourOf) => ({
      aria: { enabled: false },
      tooltip: {
        formatter: ({ name, value, data: node }: { name: string; value: number; data: { count?: number } }) =>
          `${escaped(name)}<br>${counted(node.count ?? 0, 'entry', 'entries')}, ${size(value)}`,
        backgroundColor: colour('sheet'),
        borderColor: colour('line'),
        textStyle: { color: colour('ink'), fontSize: 12 },
      },
      series: [
        {
          type: 'treemap',
          data: data.folders.map((folder, i) => ({
            name: folder.name === '' ? 'files directly here' : folder.name,
            path: folder.path,
            value: folder.bytes,
            count: folder.count,
            itemStyle: {
              color: colour(FOLDER_TOKENS[i % FOLDER_TOKENS.length]!),
              borderColor: colour(FOLDER_TOKENS[i % FOLDER_TOKENS.length]!),
            },
            // Files right in a folder that has no others need no area of their own.
            children: (folder.under.length === 1 && folder.under[0]!.name === '' ? [] : folder.under)
              .filter(({ bytes }) => bytes > 0)
              .map(({ name, path, bytes, count }) => ({
                name: name === '' ? folder.name || 'files directly here' : name,
                path,
                value: bytes,
                count,
              })),
          })),
          roam: false,
          nodeClick: false,
          breadcrumb: { show: false },
          left: 0,
          right: 0,
          top: 0,
          bottom: 0,
          itemStyle: { borderColor: colour('paper'), borderWidth: 2, gapWidth: 1 },
          label: { color: colour('on-teal'), fontSize: 12, overflow: 'truncate' },
          upperLabel: { show: true, height: 22, color: colour('on-teal'), fontSize: 12, fontWeight: 600 },
          levels: [
            { itemStyle: { borderWidth: 0, gapWidth: 3 }, upperLabel: { show: false } },
            { itemStyle: { gapWidth: 1 } },
            { colorAlpha: [0.72, 1] },
          ],
        },
      ],
    }),
    [data],
  );
  const onPick = useCallback(
    (node: unknown) => {
      const { path } = (node ?? {}) as { path?: string };
      if (path !== undefined && path !== place.folder) go({ folder: path });
    },
    [go, place.folder],
  );
  const { total } = data;
  const up = place.folder.slice(0, Math.max(0, place.folder.lastIndexOf('/')));
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mb: 0.75 }}>
        <Box component="h2" sx={{ m: 0, fontSize: 15 }}>
          {place.folder === '' ? 'The whole game' : place.folder}
        </Box>
        <span className="dim">
          {counted(total.count, 'entry', 'entries')}, {size(total.bytes)}
          {total.stored < total.bytes && total.bytes > 0
            ? `, packed to ${Math.round((total.stored / total.bytes) * 100)} %`
            : ''}
        </span>
        {place.folder !== '' && (
          <Button variant="text" sx={{ py: 0 }} onClick={() => go({ folder: up })}>
            Up to {up === '' ? 'the whole game' : up}
          </Button>
        )}
      </Box>
      <Chart
        label="Folders by size; the folder tree on the left has the same"
        height={250}
        option={option}
        onPick={onPick}
      />
    </>
  );
}

interface ShareRow extends ShareAnswer {
  readonly label: string;
  readonly token?: string;
  readonly mark?: ReactNode;
  readonly narrow?: () => void;
}
const BAR = 24;
const MOST_BARS = 9;

/** Bars with their words next to them; a click narrows the list. */
function Shares({ title, rows }: { title: string; rows: readonly ShareRow[] }) {
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
            <Line key={label} onClick={narrow} end={size(bytes)} height={BAR}>
              {mark} {label} <span className="dim">{count.toLocaleString('en')}</span>
            </Line>
          ))}
        </Box>
        <Chart label={`${title}, as bars`} height={shown.length * BAR} option={option} />
      </Box>
      {rows.length > MOST_BARS && <Box className="dim">and {rows.length - MOST_BARS} more</Box>}
    </Part>
  );
}

function Line({
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

/** The tooltip of a chart is HTML, and names come from archives. */
function escaped(text: string): string {
  return text.replace(/[&<>"]/g, (char) => `&#${char.charCodeAt(0)};`);
}
