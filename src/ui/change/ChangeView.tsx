'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import type { ChangeAnswer, EntryDetails, RunAnswer } from '../../server/shapes';
import { BytesView } from '../preview/BytesView';
import { Comparison, type Side } from '../preview/Comparison';
import { formView } from '../forms';
import { call, subjectUrl } from '../shared/api';
import { Chip } from '../shared/Chip';
import { FilePick } from '../shared/FilePick';
import { fileName, folderOf } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { WaysOfChange } from './WaysOfChange';

interface Props {
  readonly gameId: number;
  readonly change: ChangeAnswer;
  readonly entry: EntryDetails | undefined;
  readonly onUndo: () => void;
  readonly onAgain: (file: File) => void;
  /** A run was started that makes it again. */
  readonly onRun: (run: RunAnswer) => void;
}

/** A change beside what the game has, or had. */
export function ChangeView({ gameId, change, entry, onUndo, onAgain, onRun }: Props) {
  const again = useRef<HTMLInputElement>(null);
  return (
    <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2.25 }}>
      <Box sx={{ mb: 1.5 }}>
        <Typography variant="h1" component="h2" sx={{ display: 'inline', mr: 1, overflowWrap: 'anywhere' }}>
          {visible(fileName(change.path))}
        </Typography>
        <span className="mono dim">{visible(folderOf(change.path))}</span>
      </Box>
      {!change.undone && change.status !== 'fits' && (
        <Box sx={{ mb: 1.5 }}>
          <NoLongerFits gameId={gameId} change={change} onUndo={onUndo} onRun={onRun} />
        </Box>
      )}
      <Box sx={{ mb: 1.5, '&:empty': { display: 'none' } }}>
        <WaysOfChange gameId={gameId} change={change} />
      </Box>
      {change.action === 'add' ? (
        <NewEntry gameId={gameId} change={change} />
      ) : change.action === 'remove' ? (
        <Box>It will be removed from the game. Undo the change to keep it.</Box>
      ) : (
        <Beside key={change.id} gameId={gameId} change={change} entry={entry} />
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 1.75 }}>
        <Button onClick={onUndo}>{change.undone ? 'Bring it back' : 'Undo'}</Button>
        {change.action === 'replace' && (
          <>
            <Button onClick={() => again.current?.click()}>Change it again…</Button>
            <FilePick pickRef={again} label="The file for this entry" testId="change-again" onPick={onAgain} />
          </>
        )}
      </Box>
    </Box>
  );
}

const STATUS_WORDS = {
  changed: 'The game changed this entry too, since you did.',
  gone: 'The game no longer has this entry.',
  there: 'The game now has an entry of this name; yours is no longer new.',
} as const;

/** What the game did to an entry meanwhile, and what can be done about it. */
function NoLongerFits({ gameId, change, onUndo, onRun }: Pick<Props, 'gameId' | 'change' | 'onUndo' | 'onRun'>) {
  const keep = useGameMutation(gameId, () =>
    call('PATCH games/{game}/changes/{change}', { game: gameId, change: change.id, body: { keep: true } }),
  );
  const again = useGameMutation(gameId, () =>
    call('POST games/{game}/changes/{change}/again', {
      game: gameId,
      change: change.id,
      body: change.fitOptions ?? {},
    }),
  );
  return (
    <FaultNote tone="brass">
      {STATUS_WORDS[change.status as keyof typeof STATUS_WORDS]}
      <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
        {change.status === 'changed' && (
          <>
            {change.fitOptions !== null && change.action === 'replace' && (
              <Button disabled={again.isPending} onClick={() => again.mutate(undefined, { onSuccess: onRun })}>
                Make it fit again
              </Button>
            )}
            <Button disabled={keep.isPending} onClick={() => keep.mutate(undefined)}>
              Keep mine as it is
            </Button>
          </>
        )}
        <Button onClick={onUndo}>Use the game’s version</Button>
      </Box>
    </FaultNote>
  );
}

const PAIRS = ['now', 'then', 'game'] as const;
type Pair = (typeof PAIRS)[number];
const PAIR_WORDS: Readonly<Record<Pair, string>> = {
  now: 'the game now, and yours',
  then: 'the game at that time, and yours',
  game: 'the game at that time, and now',
};

/** Two of the three there are: what the game had, what it has, and what it is to have. */
function Beside({ gameId, change, entry }: Pick<Props, 'gameId' | 'change' | 'entry'>) {
  const [pair, setPair] = useState<Pair>('now');
  const { size } = change;
  const three = change.hasBase && change.status !== 'fits';
  const facts = entry?.facts ?? null;
  const then: Side = {
    label: 'Then',
    size: change.before ?? size,
    facts,
    subject: subjectUrl(gameId, { base: change.id }),
  };
  const yours: Side = {
    label: 'After, as the game will have it',
    size,
    facts,
    subject: subjectUrl(gameId, { change: change.id }),
  };
  if (entry === undefined && !three) return null;
  const now: Side =
    entry === undefined ? then : { label: 'Before', size: entry.size, facts, subject: subjectUrl(gameId, { entry }) };
  const [before, after] =
    pair === 'now' ? [now, yours] : pair === 'then' ? [then, yours] : [then, { ...now, label: 'Now' }];
  return (
    <>
      {three && (
        <Box sx={{ display: 'flex', gap: 0.75, mb: 1.25, flexWrap: 'wrap' }}>
          {PAIRS.map((one) => (
            <Chip key={one} on={pair === one} onClick={() => setPair(one)}>
              {PAIR_WORDS[one]}
            </Chip>
          ))}
        </Box>
      )}
      <Comparison
        key={pair}
        kind={facts?.form ?? entry?.kind ?? change.kind}
        name={fileName(change.path)}
        before={before}
        after={after}
      />
    </>
  );
}

/** An entry the game does not have yet. */
function NewEntry({ gameId, change }: Pick<Props, 'gameId' | 'change'>) {
  const subject = subjectUrl(gameId, { change: change.id });
  const form = formView(change.kind);
  if (form === undefined) return <BytesView url={`${subject}/bytes`} size={change.size} />;
  const name = fileName(change.path);
  return <form.View facts={null} subject={subject} name={name} mime="" size={change.size} large />;
}
