'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { KindName } from '../../server/shapes';
import { call } from '../shared/api';
import { size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { FaultNote, Part } from '../shared/states';
import { FolderMap } from './FolderMap';
import { OverviewLine, Shares } from './Shares';
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
              <OverviewLine key={archive} onClick={() => go({ archive })} end={size(bytes)}>
                {visible(path)}
              </OverviewLine>
            ))
          )}
        </Part>
        <Part title="Largest entries">
          {data.biggest.slice(0, 12).map((entry) => (
            <OverviewLine key={`${entry.archive}.${entry.n}`} onClick={() => onSelect(entry)} end={size(entry.size)}>
              <KindMark kind={entry.kind} /> {visible(entry.path)}
            </OverviewLine>
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
                <OverviewLine
                  key={`${first!.archive}.${first!.n}`}
                  onClick={() => onSelect(first!)}
                  end={`${count} × ${size(each)}`}
                >
                  <KindMark kind={first!.kind} /> {visible(first!.path)}
                </OverviewLine>
              ))}
            </>
          )}
        </Part>
      </Box>
    </Box>
  );
}
