'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useDeferredValue, useState } from 'react';
import type { WordsAnswer, WordsQuery, WordTablesAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { count, counted } from '../shared/format';
import { useNotice } from '../shared/notices';
import { isGoing, useGameMutation, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { useStoredState } from '../shared/use-stored-state';
import { FontGaps } from './FontGaps';
import { WordGroups } from './WordGroups';
import { ReplaceWords } from './ReplaceWords';
import { languageName, NewLanguage } from './NewLanguage';
import { BringTexts } from './BringTexts';
import { WordGrid } from './WordGrid';
import { WordsOut } from './WordsOut';

type Show = WordsQuery['show'];

const SHOWS: readonly (readonly [Show, string])[] = [
  ['all', 'All'],
  ['left', 'Left to do'],
  ['changed', 'Changed'],
  ['wrong', 'With problems'],
];

/** Texts by key: one language next to the one it is translated from. */
export function WordsView({ gameId }: { gameId: number }) {
  const { data: tables } = useQuery({
    queryKey: ['game', gameId, 'word-tables'],
    queryFn: () => call('GET games/{game}/words/tables', { game: gameId }),
  });
  const [kept, keep] = useStoredState<{ from?: number; to?: number; made?: string }>(`words.${gameId}`, {});
  if (tables === undefined) return null;
  if (tables.length === 0)
    return (
      <Empty
        title="No table of texts is open"
        actions={
          <Button component={Link} href={`/games/${gameId}/open`}>
            See the archives
          </Button>
        }
      >
        Texts are listed here side by side, once an archive of them is open and its recipe says what its keys are.
      </Empty>
    );
  const known = (id: number | undefined) => tables.find(({ archive }) => archive === id)?.archive;
  const from = known(kept.from) ?? (tables.find(({ locale }) => locale.startsWith('en')) ?? tables[0]!).archive;
  const to =
    tables.find(({ locale }) => locale === kept.made)?.archive ??
    known(kept.to) ??
    (tables.find(({ archive }) => archive !== from) ?? tables[0]!).archive;
  return (
    <Words
      key={`${from} ${to}`}
      gameId={gameId}
      tables={tables}
      pair={{ from, to }}
      onPair={keep}
      onMade={(made, source) => keep({ from: source, to, made })}
    />
  );
}

function Words({
  gameId,
  tables,
  pair,
  onPair,
  onMade,
}: {
  gameId: number;
  tables: WordTablesAnswer;
  pair: { readonly from: number; readonly to: number };
  onPair: (pair: { from: number; to: number }) => void;
  /** A language is made of the table `from`: it comes into view as soon as it is read. */
  onMade: (code: string, from: number) => void;
}) {
  const [typed, setTyped] = useState('');
  const search = useDeferredValue(typed);
  const [show, setShow] = useState<Show>('all');
  const [replacing, setReplacing] = useState(false);
  const [making, setMaking] = useState(false);
  const { data: languages = [] } = useQuery({
    queryKey: ['game', gameId, 'languages'],
    queryFn: () => call('GET games/{game}/words/languages', { game: gameId }),
  });
  const target = tables.find(({ archive }) => archive === pair.to);
  const [spells, setSpells] = useStoredState(`spell-out.${gameId}`, true);
  const spell = target?.spells === true && spells;
  const say = useNotice();
  const { data: runs } = useRuns(gameId);
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'words', pair, search, show, 'counts'],
    queryFn: () => call('GET games/{game}/words', { game: gameId, query: { ...pair, search, show, limit: 1 } }),
    placeholderData: (before) => before,
  });
  const [grouped, setGrouped] = useStoredState('words-by-group', false);
  const twins = useGameMutation(gameId, () =>
    call('POST games/{game}/words/twins', { game: gameId, body: { ...pair, spell } }),
  );
  const run = runs?.find((one) => one.kind === 'words-in');
  const taken = resultOf(run, 'words-in');
  const select = (label: string, key: 'from' | 'to') => (
    <TextField
      select
      size="small"
      label={label}
      value={pair[key]}
      onChange={(event) => onPair({ ...pair, [key]: Number(event.target.value) })}
      sx={{ minWidth: 190 }}
    >
      {tables.map(({ archive, path, locale, texts }) => (
        <MenuItem key={archive} value={archive}>
          {visible(locale)}, {visible(path)} ({count(texts)})
        </MenuItem>
      ))}
    </TextField>
  );
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ p: 2.25, pb: 1.25, borderBottom: '1px solid var(--line)', background: 'var(--sheet)' }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 1.5, flexWrap: 'wrap', mb: 1.5 }}>
          <Box sx={{ flex: 1 }}>
            <Typography variant="h1">Words</Typography>
            <Box className="dim">
              {data === undefined
                ? ' '
                : `${counted(data.counts.all, 'text')}: ${count(data.counts.done + data.counts.changed)} done, ${count(data.counts.left)} left to do`}
            </Box>
          </Box>
          {select('From', 'from')}
          {select('Into', 'to')}
          <Button onClick={() => setMaking(true)}>New language…</Button>
        </Box>
        {languages.length > 0 && (
          <Box className="dim" sx={{ mb: 1 }}>
            The game’s menu shows{' '}
            {languages.map(({ code, state, about }, i) => (
              <span key={code} title={about}>
                {i === 0 ? '' : ', '}
                {languageName(code) || code}
                {state === 'new' && (
                  <Box component="span" sx={{ color: 'var(--brass)' }}>
                    {' '}
                    (new)
                  </Box>
                )}
              </span>
            ))}
            .
          </Box>
        )}
        {data !== undefined && <Progress counts={data.counts} />}
        <Box sx={{ mt: 1.25, '&:empty': { display: 'none' } }}>
          <FontGaps gameId={gameId} pair={pair} />
        </Box>
        {data !== undefined && grouped && <WordGroups groups={data.groups} onPick={setTyped} />}
        <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', flexWrap: 'wrap', mt: 1.25 }}>
          <TextField
            size="small"
            placeholder="Part of a key or text"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            slotProps={{ htmlInput: { 'aria-label': 'Search in the texts' } }}
            sx={{ width: 230 }}
          />
          {SHOWS.map(([one, word]) => (
            <Chip key={one} on={show === one} onClick={() => setShow(one)}>
              {word} {data !== undefined && <span className="dim">{count(data.counts[one])}</span>}
            </Chip>
          ))}
          <Box sx={{ flex: 1 }} />
          {data !== undefined && data.groups.length > 1 && (
            <Chip on={grouped} onClick={() => setGrouped(!grouped)} label="How much is done by group">
              By group
            </Chip>
          )}
          {data !== undefined && data.counts.left > 0 && (
            <Button
              variant="text"
              title="Texts whose source is translated elsewhere take that text"
              disabled={twins.isPending}
              onClick={() => twins.mutate(undefined)}
            >
              Fill in repeats
            </Button>
          )}
          {target?.spells === true && (
            <Chip on={spells} onClick={() => setSpells(!spells)} label="Spell out what the game cannot show">
              Spell out
            </Chip>
          )}
          <Button variant="text" onClick={() => setReplacing(true)}>
            Find and replace…
          </Button>
          <WordsOut
            url={`/api/games/${gameId}/words/file?from=${pair.from}&to=${pair.to}`}
            locale={target?.locale ?? 'texts'}
          />
          <BringTexts gameId={gameId} pair={pair} spell={spell} />
        </Box>
        {run !== undefined && isGoing(run) && <RunLine run={run} label="Progress of the texts" />}
        {taken !== undefined && taken.unknown > 0 && (
          <Box className="dim">
            {counted(taken.unknown, 'key is', 'keys are')} not in the game and left out; the log of the run names them.
          </Box>
        )}
      </Box>
      {error !== null && <FaultNote>{error.message}</FaultNote>}
      {data !== undefined && data.total === 0 && (
        <Empty title="No texts match">
          {show === 'left' ? 'Nothing is left to do.' : 'Try another part of a key or text, or show all.'}
        </Empty>
      )}
      {data !== undefined && data.total > 0 && (
        <WordGrid
          key={`${show} ${search}`}
          gameId={gameId}
          pair={{ ...pair, spell }}
          total={data.total}
          query={{ ...pair, search, show }}
        />
      )}
      {making && (
        <NewLanguage
          gameId={gameId}
          tables={tables}
          languages={languages}
          from={pair.from}
          onAdded={(code) => {
            onMade(code, pair.from);
            say({ tone: 'success', text: `${languageName(code) || code} has been added; its texts are being read.` });
          }}
          onClose={() => setMaking(false)}
        />
      )}
      {replacing && (
        <ReplaceWords
          gameId={gameId}
          query={{ ...pair, search, show, spell }}
          texts={data?.total ?? 0}
          onClose={() => setReplacing(false)}
        />
      )}
    </Box>
  );
}

/** How much is done, as a band. */
function Progress({ counts }: { counts: WordsAnswer['counts'] }) {
  const part = (of: number) => `${counts.all === 0 ? 0 : (100 * of) / counts.all}%`;
  return (
    <Box
      role="img"
      aria-label={`${counts.done} done, ${counts.changed} changed by you, ${counts.left} left to do`}
      sx={{ display: 'flex', height: 8, borderRadius: 1, overflow: 'hidden', background: 'var(--line)' }}
    >
      <Box sx={{ width: part(counts.done), background: 'var(--teal)' }} />
      <Box sx={{ width: part(counts.changed), background: 'var(--brass-mark)' }} />
    </Box>
  );
}
