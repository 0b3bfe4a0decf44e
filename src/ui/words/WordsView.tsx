'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { useDeferredValue, useState } from 'react';
import type { WordTablesAnswer } from '../../server/shapes';
import { RunLine } from '../runs/RunLine';
import { resultOf } from '../runs/run-result';
import { call } from '../shared/api';
import { counted } from '../shared/format';
import { useNotice } from '../shared/notices';
import { isGoing, useRuns } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { useStoredState } from '../shared/use-stored-state';
import { FontGaps } from './FontGaps';
import { languageName, NewLanguage } from './NewLanguage';
import type { Pair } from './pair';
import { ReplaceWords } from './ReplaceWords';
import { WordGrid } from './WordGrid';
import { WordGroups } from './WordGroups';
import { WordsHead } from './WordsHead';
import { WordsTools, type WordsSetting } from './WordsTools';

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

interface Props {
  readonly gameId: number;
  readonly tables: WordTablesAnswer;
  readonly pair: Pair;
  readonly onPair: (pair: Pair) => void;
  /** A language is made of the table `from`: it comes into view as soon as it is read. */
  readonly onMade: (code: string, from: number) => void;
}

function Words({ gameId, tables, pair, onPair, onMade }: Props) {
  const [{ typed, show }, setShown] = useState<Pick<WordsSetting, 'typed' | 'show'>>({ typed: '', show: 'all' });
  const search = useDeferredValue(typed);
  const [grouped, setGrouped] = useStoredState('words-by-group', false);
  const [spells, setSpells] = useStoredState(`spell-out.${gameId}`, true);
  const [dialog, setDialog] = useState<'replace' | 'language'>();
  const { data: languages = [] } = useQuery({
    queryKey: ['game', gameId, 'languages'],
    queryFn: () => call('GET games/{game}/words/languages', { game: gameId }),
  });
  const target = tables.find(({ archive }) => archive === pair.to);
  const spell = target?.spells === true && spells;
  const say = useNotice();
  const { data: runs } = useRuns(gameId);
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'words', pair, search, show, 'counts'],
    queryFn: () => call('GET games/{game}/words', { game: gameId, query: { ...pair, search, show, limit: 1 } }),
    placeholderData: (before) => before,
  });
  const onSetting = (next: Partial<WordsSetting>) => {
    setShown((before) => ({ typed: next.typed ?? before.typed, show: next.show ?? before.show }));
    if (next.grouped !== undefined) setGrouped(next.grouped);
    if (next.spells !== undefined) setSpells(next.spells);
  };
  const run = runs?.find((one) => one.kind === 'words-in');
  const taken = resultOf(run, 'words-in');
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ p: 2.25, pb: 1.25, borderBottom: '1px solid var(--line)', background: 'var(--sheet)' }}>
        <WordsHead
          tables={tables}
          languages={languages}
          pair={pair}
          counts={data?.counts}
          onPair={onPair}
          onNewLanguage={() => setDialog('language')}
        />
        <Box sx={{ mt: 1.25, '&:empty': { display: 'none' } }}>
          <FontGaps gameId={gameId} pair={pair} />
        </Box>
        {data !== undefined && grouped && (
          <WordGroups groups={data.groups} onPick={(group) => onSetting({ typed: group })} />
        )}
        <WordsTools
          gameId={gameId}
          pair={pair}
          target={target}
          data={data}
          setting={{ typed, show, grouped, spells }}
          onSetting={onSetting}
          onReplace={() => setDialog('replace')}
        />
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
      {dialog === 'language' && (
        <NewLanguage
          gameId={gameId}
          tables={tables}
          languages={languages}
          from={pair.from}
          onAdded={(code) => {
            onMade(code, pair.from);
            say({ tone: 'success', text: `${languageName(code) || code} has been added; its texts are being read.` });
          }}
          onClose={() => setDialog(undefined)}
        />
      )}
      {dialog === 'replace' && (
        <ReplaceWords
          gameId={gameId}
          query={{ ...pair, search, show, spell }}
          texts={data?.total ?? 0}
          onClose={() => setDialog(undefined)}
        />
      )}
    </Box>
  );
}
