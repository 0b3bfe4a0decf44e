'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState, useMemo } from 'react';
import type { FilmFacts } from '../../../server/shapes';
import { type BodyOf, type EntryAddress, call, entryIn, entryUrl } from '../../shared/api';
import type { SubjectAddress } from '../form-view';
import { isGoing } from '../../shared/queries';
import { FaultNote } from '../../shared/states';
import { NOT_PLAYED, Played } from './FilmPlayed';

interface Props {
  readonly subject: SubjectAddress;
  readonly film: FilmFacts;
  /** With the changes there are, as the game will have it. */
  readonly changed?: boolean;
  /** Space plays and pauses; of several on a page only one has the key. */
  readonly keys?: boolean;
}

/** How often a run is asked how far it is, in milliseconds. */
const ASK_MS = 400;

/** A film with its sound and subtitles: converted once for the page, kept, and stepped through picture by picture. */
export function FilmPlayer({ subject, film, changed = false, keys = true }: Props) {
  const [wanted, setWanted] = useState(false);
  const order = { as: 'webm', changed } as const;
  if (film.trouble !== null) return <FaultNote tone="brass">{film.trouble}</FaultNote>;
  if (film.direct) return <Played source={`${subject}/bytes`} film={film} tracks={[]} keys={keys} />;
  const entry = entryIn(subject);
  if (entry === undefined) return <FaultNote tone="brass">{NOT_PLAYED}</FaultNote>;
  const address = (leaf: 'film' | 'subtitles') => entryUrl(entry.game, entry, leaf);
  const tracks = film.streams
    .filter(({ is }) => is === 'subtitles')
    .map(({ number, locale }) => ({
      src: `${address('subtitles')}?as=vtt&stream=${number}&changed=${changed}`,
      locale: locale === '' ? `${number}` : locale,
    }));
  return wanted ? (
    <Converted entry={entry} order={order}>
      <Played source={`${address('film')}?as=webm&changed=${changed}`} film={film} tracks={tracks} keys={keys} plays />
    </Converted>
  ) : (
    <Box
      sx={{ border: '1px solid var(--line)', borderRadius: 1, background: 'var(--paper)', p: 2, textAlign: 'center' }}
    >
      <Button variant="contained" onClick={() => setWanted(true)}>
        Play the film
      </Button>
      <Box className="dim" sx={{ mt: 0.75 }}>
        {film.seconds.toFixed(1)} s; it is converted once for the page
      </Box>
    </Box>
  );
}

/** What is shown once a film is there; how far it is until then. */
interface ConvertedProps {
  readonly entry: EntryAddress;
  readonly order: BodyOf<'POST games/{game}/entries/{archive}/{n}/film'>;
  readonly children: React.ReactNode;
}

export function Converted({ entry, order, children }: ConvertedProps) {
  const client = useQueryClient();
  const { game, archive, n } = entry;
  const films = useMemo(() => ['film', game, archive, n], [game, archive, n]);
  const key = [...films, order];
  const { data, error } = useQuery({
    queryKey: key,
    queryFn: () => call('POST games/{game}/entries/{archive}/{n}/film', { ...entry, body: order }),
    retry: false,
    staleTime: 5_000,
  });
  const run = data !== undefined && !data.ready ? data.run : undefined;
  const { data: now } = useQuery({
    queryKey: ['film-run', run?.id],
    queryFn: () => call('GET runs/{run}', { run: run?.id ?? 0 }),
    enabled: run !== undefined,
    refetchInterval: ({ state }) => (state.data === undefined || isGoing(state.data) ? ASK_MS : false),
  });
  const state = now?.state;
  useEffect(() => {
    if (state === 'done') void client.invalidateQueries({ queryKey: films });
  }, [state, client, films]);
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  if (data?.ready === true) return children;
  if (now?.state === 'failed') return <FaultNote>{now.fault?.sentence ?? 'It could not be converted.'}</FaultNote>;
  if (now !== undefined && !isGoing(now) && now.state !== 'done')
    return (
      <FaultNote tone="brass">
        It was stopped.{' '}
        <Button variant="inline" onClick={() => void client.invalidateQueries({ queryKey: films })}>
          Begin again
        </Button>
      </FaultNote>
    );
  return (
    <Box sx={{ border: '1px solid var(--line)', borderRadius: 1, background: 'var(--paper)', p: 2 }}>
      <Box sx={{ mb: 1 }}>
        {now === undefined || now.total === 0
          ? 'Converting…'
          : `Converting: ${(now.done / 1000).toFixed(1)} of ${(now.total / 1000).toFixed(1)} s`}
      </Box>
      <LinearProgress
        aria-label="Progress of the film"
        {...(now === undefined || now.total === 0
          ? {}
          : { variant: 'determinate', value: (now.done / now.total) * 100 })}
      />
      {run !== undefined && (
        <Button
          variant="text"
          sx={{ mt: 0.75, p: 0 }}
          onClick={() => void call('POST runs/{run}/{action}', { run: run.id, action: 'stop' })}
        >
          Stop
        </Button>
      )}
    </Box>
  );
}
