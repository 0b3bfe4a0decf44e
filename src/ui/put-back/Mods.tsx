'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import { useQuery } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { ModAnswer, ModEdit } from '../../server/shapes';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { counted, size } from '../shared/format';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { RunLine } from '../runs/RunLine';

const button = { p: 0, minWidth: 0 } as const;

/** Mods by others: which are on, in what order, and where they meet. */
export function Mods({ gameId }: { gameId: number }) {
  const { data } = useQuery({
    queryKey: ['game', gameId, 'mods'],
    queryFn: () => call('GET games/{game}/mods', { game: gameId }),
  });
  const { data: runs } = useRuns(gameId);
  const pick = useRef<HTMLInputElement>(null);
  const bring = useGameMutation(gameId, (file: File) =>
    call('POST games/{game}/mods', { game: gameId, query: { name: file.name }, send: file }),
  );
  const agree = useGameMutation(gameId, (id: number) =>
    call('POST games/{game}/mods/agree/{run}', { game: gameId, run: id }),
  );
  const run = runs?.find((one) => one.kind === 'bring-mod');
  const brought = resultOf(run, 'bring-mod');
  if (data === undefined) return null;
  const { mods, conflicts } = data;
  return (
    <Part title="Mods by others">
      {mods.length === 0 && (
        <Box className="dim">A mod that someone shared is added below your own changes, and can be turned off.</Box>
      )}
      <Box role="list" aria-label="Mods by others">
        {mods.map((mod, i) => (
          <ModRow key={mod.id} gameId={gameId} mod={mod} first={i === 0} last={i === mods.length - 1} />
        ))}
      </Box>
      {mods.length > 1 && <Box className="dim">The lower mod wins; your own changes win over both.</Box>}
      {conflicts.length > 0 && (
        <Box sx={{ my: 1 }}>
          <FaultNote tone="brass">
            <b>{counted(conflicts.length, 'entry is', 'entries are')} changed by several.</b>
            {conflicts.slice(0, CONFLICTS_LISTED).map(({ path, by, holds }) => (
              <div key={path}>
                <span className="mono">{visible(path)}</span>: {by.join(', ')};{' '}
                {holds === 'you' ? 'yours wins' : `${holds} wins`}.
              </div>
            ))}
            {conflicts.length > CONFLICTS_LISTED && (
              <div>and {counted(conflicts.length - CONFLICTS_LISTED, 'more', 'more')}</div>
            )}
          </FaultNote>
        </Box>
      )}
      {run !== undefined && isGoing(run) && <RunLine run={run} label="Progress of the mod" />}
      {run?.fault != null && <FaultNote>{run.fault.sentence}</FaultNote>}
      {run !== undefined && brought !== undefined && 'asks' in brought && (
        <FaultNote tone="brass">
          <b>{visible(brought.name)}</b> unpacks to {size(brought.asks)}.
          <Box sx={{ mt: 0.75 }}>
            <Button disabled={agree.isPending} onClick={() => agree.mutate(run.id)}>
              Bring it in
            </Button>
          </Box>
        </FaultNote>
      )}
      <Button sx={{ mt: 1 }} disabled={bring.isPending} onClick={() => pick.current?.click()}>
        Add a mod file…
      </Button>
      <FilePick
        pickRef={pick}
        label="A mod file"
        testId="mod-file"
        accept=".zip"
        onPick={(file) => bring.mutate(file)}
      />
    </Part>
  );
}

const CONFLICTS_LISTED = 8;

function ModRow({ gameId, mod, first, last }: { gameId: number; mod: ModAnswer; first: boolean; last: boolean }) {
  const [open, setOpen] = useState(false);
  // Shown at once, and until the game says so too.
  const [wanted, setWanted] = useState<boolean>();
  if (wanted === mod.enabled) setWanted(undefined);
  const edit = useGameMutation(gameId, (change: ModEdit) =>
    call('PATCH games/{game}/mods/{mod}', { game: gameId, mod: mod.id, body: change }),
  );
  const remove = useGameMutation(gameId, () => call('DELETE games/{game}/mods/{mod}', { game: gameId, mod: mod.id }));
  const unfit = mod.changes.filter(({ status }) => status !== 'fits').length;
  const { name, version, author, notes, licence, enabled, leftOut } = mod;
  return (
    <Box role="listitem" sx={{ py: 0.75, borderBottom: '1px solid var(--line)' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Checkbox
          size="small"
          sx={{ p: 0 }}
          checked={wanted ?? enabled}
          onChange={(_, on) => {
            setWanted(on);
            edit.mutate({ enabled: on }, { onError: () => setWanted(undefined) });
          }}
          slotProps={{ input: { 'aria-label': `${name} is on` } }}
        />
        {mod.hasPicture && (
          <Box
            component="img"
            src={`/api/games/${gameId}/mods/${mod.id}/picture`}
            alt=""
            sx={{ width: 48, height: 30, objectFit: 'cover', borderRadius: '3px' }}
          />
        )}
        <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }} className={enabled ? '' : 'dim'}>
          <b>{visible(name)}</b> {visible(version)} {author !== '' && <span className="dim">by {visible(author)}</span>}
          <div className="dim">
            {counted(mod.total, 'change')}
            {unfit > 0 && `, ${unfit} for another build`}
            {leftOut.length > 0 && `, ${leftOut.length} left out`}
          </div>
        </Box>
        <Button
          variant="text"
          sx={button}
          disabled={first}
          aria-label={`${name} earlier`}
          onClick={() => edit.mutate({ move: 'earlier' })}
        >
          ↑
        </Button>
        <Button
          variant="text"
          sx={button}
          disabled={last}
          aria-label={`${name} later`}
          onClick={() => edit.mutate({ move: 'later' })}
        >
          ↓
        </Button>
        <Button variant="text" sx={button} aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Less' : 'More'}
        </Button>
      </Box>
      {open && (
        <Box sx={{ pl: 3.5, pt: 0.75, overflowWrap: 'anywhere' }}>
          {notes !== '' && <Box sx={{ whiteSpace: 'pre-wrap' }}>{notes}</Box>}
          <Box className="dim">
            {mod.madeFor !== null && `Made for ${mod.madeFor}. `}
            {licence !== '' && `Licence: ${licence}.`}
          </Box>
          {mod.changes.map(({ path, action, status }) => (
            <div key={path}>
              <span className="mono">{visible(path)}</span>
              <span className="dim">
                {action === 'add' ? ' new' : action === 'remove' ? ' gone' : ''}
                {status === 'changed' ? ' · the game has another version' : status === 'fits' ? '' : ` · ${status}`}
              </span>
            </div>
          ))}
          {mod.total > mod.changes.length && <div className="dim">and {mod.total - mod.changes.length} more</div>}
          {leftOut.map((sentence) => (
            <Box key={sentence} sx={{ color: 'var(--brick)' }}>
              {sentence}
            </Box>
          ))}
          <Button variant="text" sx={button} disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
            Remove the mod
          </Button>
        </Box>
      )}
    </Box>
  );
}
