'use client';
import { sayNote } from '../../core/notes';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { IncomingFile, FilmOptions } from '../../server/shapes';
import { call } from '../shared/api';
import { fileName, folderOf, size } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { FilmFields } from '../forms/film';
import { EntryPick } from './EntryPick';
import { NumbersCard } from './NumbersCard';

/** A dropped file that waits: what is asked about it, and the ways on. */
export function IncomingFileView({
  gameId,
  incomingFile,
  onSettled,
}: {
  gameId: number;
  incomingFile: IncomingFile;
  /** Something of its drop may go on now. */
  onSettled: (drop: number) => void;
}) {
  const address = { game: gameId, drop: incomingFile.drop, file: incomingFile.id };
  const place = useGameMutation(gameId, (path: string) =>
    call('PATCH games/{game}/drops/{drop}/files/{file}', { ...address, body: { path } }),
  );
  const pass = useGameMutation(gameId, () => call('DELETE games/{game}/drops/{drop}/files/{file}', address));
  const choose = (path: string) => place.mutate(path, { onSuccess: () => onSettled(incomingFile.drop) });
  return (
    <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
      <Typography variant="h1" component="h2" sx={{ overflowWrap: 'anywhere' }}>
        {fileName(incomingFile.name)}
      </Typography>
      <Box className="dim" sx={{ mb: 2 }}>
        <span className="mono">{folderOf(incomingFile.name)}</span> {size(incomingFile.size)}
      </Box>
      <Box sx={{ maxWidth: 640 }}>
        <Question incomingFile={incomingFile} />
        {incomingFile.state === 'needsOptions' && (
          <OptionsCard gameId={gameId} incomingFile={incomingFile} onSettled={onSettled} />
        )}
        {incomingFile.state === 'waiting' && (
          <Button variant="contained" onClick={() => onSettled(incomingFile.drop)}>
            Bring it in
          </Button>
        )}
        {incomingFile.state === 'numbered' ? (
          <NumbersCard gameId={gameId} drop={incomingFile.drop} onSettled={() => onSettled(incomingFile.drop)} />
        ) : (
          incomingFile.state !== 'same' && (
            <EntryPick
              gameId={gameId}
              label={incomingFile.path === null ? 'The entry it is for' : 'Or another entry'}
              onPick={choose}
            />
          )
        )}
        {incomingFile.choices.length > 0 && (
          <Box role="list" aria-label="Entries it may be for" sx={{ mt: 1.5 }}>
            {incomingFile.choices.map(({ path, matchedBy }) => (
              <Box
                key={path}
                role="listitem"
                sx={{
                  display: 'flex',
                  alignItems: 'center',
                  gap: 1.5,
                  py: 0.75,
                  borderBottom: '1px solid var(--line)',
                }}
              >
                <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
                  <div>{fileName(path)}</div>
                  <div className="dim">
                    <span className="mono">{folderOf(path)}</span> {sayNote(matchedBy)}
                  </div>
                </Box>
                <Button onClick={() => choose(path)} disabled={place.isPending} aria-label={`It is for ${path}`}>
                  This one
                </Button>
              </Box>
            ))}
          </Box>
        )}
        <Button sx={{ mt: 2 }} onClick={() => pass.mutate(undefined)}>
          Skip this file
        </Button>
      </Box>
    </Box>
  );
}

/** A film is converted once it is said how. */
function OptionsCard({
  gameId,
  incomingFile: { drop, id },
  onSettled,
}: {
  gameId: number;
  incomingFile: IncomingFile;
  onSettled: (drop: number) => void;
}) {
  const address = { game: gameId, drop, file: id };
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'film-choices', id],
    queryFn: () => call('GET games/{game}/drops/{drop}/files/{file}', address),
  });
  const convert = useGameMutation(gameId, (film: FilmOptions) =>
    call('PATCH games/{game}/drops/{drop}/files/{file}', { ...address, body: { film } }),
  );
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  if (data === undefined) return null;
  const { sizes, codec, rate, sound, before, seconds } = data;
  return (
    <Box sx={{ mb: 2 }}>
      <Box className="dim">
        Yours lasts {seconds.toFixed(1)} s, the original {before.toFixed(1)} s.
      </Box>
      <FilmFields
        {...{ sizes, codec, rate, sound }}
        fitOptions={{}}
        go={{
          label: 'Convert it',
          busy: convert.isPending,
          onGo: (film) => convert.mutate(film, { onSuccess: () => onSettled(drop) }),
        }}
      />
    </Box>
  );
}

function Question({ incomingFile: { state, fault, path } }: { incomingFile: IncomingFile }) {
  const words = {
    needsOptions: `It is for ${path}, which the game keeps packed. How is it converted?`,
    ambiguous: 'Which entry is it for?',
    numbered: 'Its name is a number. Which folder is it for, and how is it counted?',
    unmatched: 'No entry has the name or label of this file.',
    waiting: path === null ? 'It has not been matched yet.' : `It is for ${path} and has not been converted yet.`,
    same: '',
    refused: '',
  }[state];
  if (fault !== null)
    return (
      <Box sx={{ mb: 2 }}>
        <FaultNote tone={state === 'same' ? 'brass' : 'brick'}>{fault.sentence}</FaultNote>
      </Box>
    );
  return <Box sx={{ mb: 2 }}>{words}</Box>;
}
