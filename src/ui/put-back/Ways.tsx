'use client';
import { sayFault } from '../../core/faults';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import type { ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import type { BuildWays, How, PutBackAnswer, WayAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { counted, fileName, size } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { ArchiveWays } from './ArchiveWays';
import { useEstimate } from './use-estimate';

const WAYS = [
  {
    how: 'patch',
    name: 'A small archive that loads last',
    about: 'Only what you changed. The game’s own files stay as they are.',
  },
  {
    how: 'keep',
    name: 'Rebuild the archives that changed',
    about: 'Only what you changed moves; everything else is copied byte for byte.',
  },
  { how: 'loose', name: 'Loose files beside the game', about: 'For games that read folders before archives.' },
] as const;

/** How a rebuilt archive is laid out. */
const LAYOUTS: readonly (readonly [How, string, string])[] = [
  ['keep', 'in place', 'A changed entry keeps its place where it fits'],
  ['append', 'what no longer fits at the end', 'An entry that no longer fits goes after the others'],
  ['afresh', 'from scratch, without gaps', 'As the format orders it, without gaps'],
];

const isRebuilt = (how: How) => LAYOUTS.some(([layout]) => layout === how);

interface Props {
  readonly gameId: number;
  /** Nothing is worked out where nothing is changed. */
  readonly changed: boolean;
  readonly putBack: Pick<PutBackAnswer, 'ways' | 'mark'>;
  /** Undefined until somebody says what the game reads. */
  readonly chosen: BuildWays | undefined;
  readonly onChoose: (chosen: BuildWays) => void;
}

/** The ways to build, with what each would write. */
export function Ways({ gameId, changed, putBack, chosen: ways, onChoose }: Props) {
  const how = ways?.how;
  const archives = ways?.archives ?? {};
  const onHow = (one: How) => onChoose({ how: one, archives });
  const working = useEstimate(gameId, changed, putBack);
  const of = (one: How) => putBack.ways?.ways.find((way) => way.how === one);
  return (
    <Part title="How">
      {how === undefined && (
        <Box sx={{ mb: 1 }}>
          <FaultNote tone="brass">
            Nothing here says which of these the game reads. Choose one; it is remembered with the game.
          </FaultNote>
        </Box>
      )}
      <Box role="radiogroup" aria-label="How">
        {WAYS.map(({ how: one, name, about }) => {
          const chosen = how === one || (one === 'keep' && how !== undefined && isRebuilt(how));
          return (
            <Box
              key={one}
              sx={{
                border: '1px solid',
                borderColor: chosen ? 'var(--teal)' : 'var(--line)',
                background: chosen ? 'var(--teal2)' : undefined,
                borderRadius: 1,
                mb: 1,
              }}
            >
              <Box component="label" sx={{ display: 'flex', gap: 1.5, p: 1.25, cursor: 'pointer' }}>
                <input
                  type="radio"
                  name="how"
                  checked={chosen}
                  onChange={() => onHow(one)}
                  style={{ accentColor: 'var(--teal)' }}
                />
                <Box sx={{ minWidth: 0 }}>
                  <b>{name}</b>
                  {/* As high as its figures will make it, so that what is below does not move under the pointer. */}
                  <Box className="dim" sx={{ overflowWrap: 'anywhere', minHeight: '2lh' }}>
                    {changed && <Figures way={of(chosen ? how! : one)} working={working} chosen={chosen} />} {about}
                  </Box>
                </Box>
              </Box>
              {chosen && one === 'keep' && (
                <Indented>
                  {LAYOUTS.map(([layout, word, hint]) => (
                    <Chip key={layout} on={how === layout} onClick={() => onHow(layout)} label={hint}>
                      {word}
                    </Chip>
                  ))}
                </Indented>
              )}
              {chosen && one === 'loose' && (
                <Indented>
                  <LooseFolder gameId={gameId} />
                </Indented>
              )}
            </Box>
          );
        })}
      </Box>
      {changed && putBack.ways !== null && ways !== undefined && (
        <ArchiveWays
          answer={putBack.ways}
          chosen={ways}
          onChoose={(archives) => onChoose({ how: ways.how, archives })}
        />
      )}
    </Part>
  );
}

function Indented({ children }: { children: ReactNode }) {
  return <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', pl: 5, pr: 1.25, pb: 1.25 }}>{children}</Box>;
}

const FILES_NAMED = 2;

function Figures({ way, working, chosen }: { way: WayAnswer | undefined; working: boolean; chosen: boolean }) {
  if (way === undefined) return working ? <span>Working out what it writes…</span> : null;
  if (way.refused !== null) return <span style={{ color: 'var(--brick)' }}>{sayFault(way.refused)}</span>;
  const { files, bytes, refusals } = way;
  // Of the chosen way, the notes below say which archives and what to do.
  if (refusals.length > 0)
    return (
      <span style={{ color: 'var(--brass)' }}>
        {chosen
          ? `${counted(refusals.length, 'archive has', 'archives have')} to be built another way.`
          : sayFault(refusals[0]!.fault)}
      </span>
    );
  const named = files
    .slice(0, FILES_NAMED)
    .map((file) => visible(fileName(file)))
    .join(', ');
  const more = files.length - FILES_NAMED;
  return (
    <span>
      {named}
      {more > 0 && ` and ${counted(more, 'more file', 'more files')}`}, {size(bytes)}.
    </span>
  );
}

function LooseFolder({ gameId }: { gameId: number }) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'test-rules'],
    queryFn: () => call('GET games/{game}/test-rules', { game: gameId }),
  });
  const keep = useGameMutation(gameId, (looseFolder: string) =>
    call('PUT games/{game}/test-rules', { game: gameId, body: { looseFolder } }),
  );
  if (data === undefined) return null;
  return (
    <TextField
      size="small"
      fullWidth
      defaultValue={data.looseFolder}
      placeholder="the game’s own folder"
      helperText="The folder the game looks into first"
      onBlur={(event) => {
        const folder = event.target.value.trim().replace(/\/+$/, '');
        if (folder !== data.looseFolder) keep.mutate(folder);
      }}
      slotProps={{ htmlInput: { 'aria-label': 'Folder of loose files', className: 'mono' } }}
    />
  );
}
