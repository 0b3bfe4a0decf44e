'use client';
import Box from '@mui/material/Box';
import { useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useState } from 'react';
import type { ArchiveAnswer, RecipeAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import { Empty } from '../shared/states';
import { CompareDialog } from './CompareDialog';
import { emptyRecipe, insertLines } from './insert-lines';
import { ParsedBytes } from './ParsedBytes';
import { ProofPanel } from './ProofPanel';
import { RandomnessFoot } from './RandomnessFoot';
import { RecipeBar } from './RecipeBar';
import { RecipeEditor } from './RecipeEditor';
import { SaveActions } from './SaveActions';
import { TryAllDialog } from './TryAllDialog';
import { useSettled } from '../shared/use-settled';
import { useCollection } from './use-collection';
import { useCheck, useHints, useTry, useVocabulary } from './use-workbench';

/** A file is read again once typing has paused for so long. */
const REST_MS = 700;

interface Wish {
  readonly at: number;
  readonly turn: number;
}

export function Workbench({
  gameId,
  gameName,
  recipes,
  archives,
}: {
  gameId: number;
  gameName: string;
  recipes: readonly RecipeAnswer[];
  archives: readonly ArchiveAnswer[];
}) {
  const asked = Number(useSearchParams().get('archive') ?? NaN);
  const wanted = archives.find(({ id }) => id === asked);
  const first = wanted ?? archives.find(({ title }) => title !== null) ?? archives[0];
  const [archiveId, setArchiveId] = useState(first?.id);
  const archive = archives.find(({ id }) => id === archiveId);
  const [recipeId, setRecipeId] = useState<string | undefined>(
    // A file no recipe knows begins with an empty one.
    (recipes.find(({ title }) => title === first?.title) ?? (wanted === undefined ? recipes[0] : undefined))?.id,
  );
  const recipe = recipes.find(({ id }) => id === recipeId);
  const [text, setText] = useState(() => recipe?.text ?? emptyRecipe(first?.path.split('/').at(-1) ?? 'new format'));
  const [everywhere, setEverywhere] = useState(recipe?.scope?.everywhere ?? false);
  const [dialog, setDialog] = useState<'compare' | 'try-all'>();
  const [line, setLine] = useState(1);
  const [reveal, setReveal] = useState<{ line: number; turn: number }>();
  const [byteWish, setByteWish] = useState<Wish>();
  const rested = useSettled(text, REST_MS);
  const { data: check } = useCheck(text);
  const compiles = check?.fault === null;
  const tried = useTry(gameId, archiveId, rested, compiles);
  const { data: hints } = useHints(gameId, archiveId);
  const { data: words } = useVocabulary();
  const say = useNotice();
  const { takeAll, bringAll } = useCollection(gameId, gameName);
  const client = useQueryClient();

  const answer = compiles ? tried.data : undefined;
  const faults = useMemo(() => {
    const all = [check?.fault, answer?.fault, ...(answer?.complaints ?? [])];
    return all.flatMap((fault) => (fault == null ? [] : [fault]));
  }, [check, answer]);
  const showLine = useCallback((wanted: number) => setReveal((before) => ({ line: wanted, turn: (before?.turn ?? 0) + 1 })), []);
  const showByte = useCallback((at: number) => setByteWish((before) => ({ at, turn: (before?.turn ?? 0) + 1 })), []);
  const changed = text !== (recipe?.text ?? '');
  const next = (recipe?.revision ?? 0) + 1;
  const { scope = null } = recipe ?? {};
  // A revision with the same text may be for other games.
  const isElsewhere =
    scope !== null && (everywhere !== scope.everywhere || !(everywhere || scope.games.includes(gameId)));

  const choose = (id: string) => {
    const chosen = recipes.find((one) => one.id === id);
    setRecipeId(id);
    setText(chosen?.text ?? '');
    setEverywhere(chosen?.scope?.everywhere ?? false);
  };
  const begin = () => {
    setRecipeId(undefined);
    setText(emptyRecipe(archive?.path.split('/').at(-1) ?? 'new format'));
  };
  const save = useGameMutation(gameId, async () => {
    // Revisions count up by themselves: the number in the text follows.
    const saved = recipe === undefined ? text : text.replace(/^revision:.*$/m, `revision: ${next}`);
    const answered = await call('POST recipes', { body: { text: saved, game: gameId, everywhere } });
    await client.invalidateQueries({ queryKey: ['recipes'] });
    setRecipeId(answered.id);
    setText(saved);
    say({ tone: 'success', text: `Revision ${answered.revision} of ${answered.id} is saved. Scan the folder to use it.` });
  });
  const bringIn = (file: File) => {
    if (/\.zip$/i.test(file.name)) return bringAll.mutate({ file, everywhere });
    void file.text().then((content) => {
      setRecipeId(undefined);
      setText(content);
    });
  };

  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <RecipeBar
        recipes={recipes}
        recipe={recipe}
        archives={archives}
        archiveId={archiveId}
        onChoose={choose}
        onBegin={begin}
        onFile={bringIn}
        onTakeAll={() => takeAll.mutate(undefined)}
        text={text}
        onCompare={() => setDialog('compare')}
        onSample={setArchiveId}
      />
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box sx={{ flex: '0 0 36.5%', minWidth: 0, borderRight: '1px solid var(--line)', background: 'var(--sheet)' }}>
          <RecipeEditor text={text} words={words} faults={faults} reveal={reveal} onChange={setText} onLine={setLine} />
        </Box>
        <Box sx={middle}>
          {archive === undefined ? (
            <Empty title="No file to try it on">Scan a game folder in Open; its files can then be looked into here.</Empty>
          ) : (
            <ParsedBytes
              key={archive.id}
              url={`/api/games/${gameId}/archives/${archive.id}/bytes`}
              size={archive.volumes[0]?.size ?? archive.size}
              answer={answer}
              line={line}
              wish={byteWish}
              onField={(field) => showLine(field.line)}
            />
          )}
        </Box>
        <ProofPanel
          fileName={archive?.path ?? ''}
          check={check}
          answer={answer}
          isTrying={tried.isFetching}
          error={tried.error}
          hints={hints}
          onPlace={(fault) => {
            if (fault.line !== null) showLine(fault.line);
            if (fault.at !== null) showByte(fault.at);
          }}
          onByte={showByte}
          onInsert={(lines) => setText((before) => insertLines(before, lines))}
          actions={
            <SaveActions
              everywhere={everywhere}
              onEverywhere={setEverywhere}
              nextRevision={recipe === undefined ? undefined : next}
              canSave={compiles && (changed || isElsewhere) && !save.isPending}
              canTry={compiles && archives.length > 0}
              onSave={() => save.mutate(undefined)}
              onTryAll={() => setDialog('try-all')}
            />
          }
        />
      </Box>
      {archive !== undefined && (
        <RandomnessFoot
          name={archive.path}
          size={archive.volumes[0]?.size ?? archive.size}
          randomness={hints?.randomness}
          unexplained={answer?.unexplained}
          onPick={showByte}
        />
      )}
      {dialog === 'compare' && recipe !== undefined && (
        <CompareDialog recipe={recipe} text={text} onClose={() => setDialog(undefined)} onTake={setText} />
      )}
      {dialog === 'try-all' && (
        <TryAllDialog gameId={gameId} archives={archives} text={text} onClose={() => setDialog(undefined)} />
      )}
    </Box>
  );
}

const middle = {
  flex: 1,
  minWidth: 0,
  borderRight: '1px solid var(--line)',
  background: 'var(--sheet)',
  display: 'flex',
  flexDirection: 'column',
} as const;
