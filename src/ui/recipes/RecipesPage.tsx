'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import { useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useRef, useState } from 'react';
import type { ArchiveAnswer, RecipeAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { useNotice } from '../shared/notices';
import { useGameMutation, useGame, useRecipes } from '../shared/queries';
import { Empty } from '../shared/states';
import { CompareDialog } from './CompareDialog';
import { emptyRecipe, insertLines } from './insert-lines';
import { ParsedBytes } from './ParsedBytes';
import { ProofPanel } from './ProofPanel';
import { RandomnessFoot } from './RandomnessFoot';
import { RecipeEditor } from './RecipeEditor';
import { TryAllDialog } from './TryAllDialog';
import { useSettled } from '../shared/use-settled';
import { useCheck, useHints, useTry, useVocabulary } from './use-workbench';

/** A file is read again once typing has paused for so long. */
const REST_MS = 700;

/** The workbench: a recipe's text, the bytes of a sample and what they mean, the proof, hints. */
export function RecipesPage({ gameId }: { gameId: number }) {
  const { data: recipes } = useRecipes();
  const { data: game } = useGame(gameId);
  if (recipes === undefined || game === undefined) return null;
  if (recipes.length === 0) return <Empty title="There are no recipes" />;
  return <Workbench gameId={gameId} recipes={recipes} archives={game.archives} />;
}

interface Wish {
  readonly at: number;
  readonly turn: number;
}

function Workbench({
  gameId,
  recipes,
  archives,
}: {
  gameId: number;
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
  const client = useQueryClient();
  const fileInput = useRef<HTMLInputElement>(null);

  const answer = compiles ? tried.data : undefined;
  const faults = useMemo(() => {
    const all = [check?.fault, answer?.fault, ...(answer?.complaints ?? [])];
    return all.flatMap((fault) => (fault == null ? [] : [fault]));
  }, [check, answer]);
  const showLine = useCallback((wanted: number) => setReveal((before) => ({ line: wanted, turn: (before?.turn ?? 0) + 1 })), []);
  const showByte = useCallback((at: number) => setByteWish((before) => ({ at, turn: (before?.turn ?? 0) + 1 })), []);
  const changed = text !== (recipe?.text ?? '');
  const next = (recipe?.revision ?? 0) + 1;

  const choose = (id: string) => {
    const chosen = recipes.find((one) => one.id === id);
    setRecipeId(id);
    setText(chosen?.text ?? '');
  };
  const begin = () => {
    setRecipeId(undefined);
    setText(emptyRecipe(archive?.path.split('/').at(-1) ?? 'new format'));
  };
  const save = useGameMutation(gameId, async () => {
    // Revisions count up by themselves: the number in the text follows.
    const saved = recipe === undefined ? text : text.replace(/^revision:.*$/m, `revision: ${next}`);
    const answered = await call('POST recipes', { body: { text: saved } });
    await client.invalidateQueries({ queryKey: ['recipes'] });
    setRecipeId(answered.id);
    setText(saved);
    say({ tone: 'success', text: `Revision ${answered.revision} of ${answered.id} is saved. Scan the folder to use it.` });
  });
  const bringIn = (file: File | undefined) => {
    if (file === undefined) return;
    void file.text().then((content) => {
      setRecipeId(undefined);
      setText(content);
    });
  };
  const takeOut = () => {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([text], { type: 'application/yaml' }));
    link.download = `${/^recipe:\s*(\S+)/m.exec(text)?.[1] ?? 'recipe'}.yaml`;
    link.click();
    URL.revokeObjectURL(link.href);
  };

  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={bar} role="toolbar" aria-label="Recipe">
        <Select
          size="small"
          displayEmpty
          value={recipeId ?? ''}
          onChange={(event) => choose(event.target.value)}
          inputProps={{ 'aria-label': 'Recipe' }}
          sx={{ minWidth: 240 }}
        >
          {recipeId === undefined && (
            <MenuItem value="">
              <i>not saved yet</i>
            </MenuItem>
          )}
          {recipes.map(({ id, title, revision, shipped, fault }) => (
            <MenuItem key={id} value={id}>
              {`${title} · revision ${revision}${shipped ? '' : ', yours'}${fault === null ? '' : ', has errors'}`}
            </MenuItem>
          ))}
        </Select>
        <Button onClick={begin}>Write a new one</Button>
        <Button onClick={() => fileInput.current?.click()}>Bring in</Button>
        <input
          ref={fileInput}
          hidden
          type="file"
          accept=".yaml,.yml"
          aria-label="Recipe file"
          onChange={(event) => bringIn(event.target.files?.[0])}
        />
        <Button onClick={takeOut}>Take out</Button>
        <Button onClick={() => setDialog('compare')} disabled={recipe === undefined}>
          Compare
        </Button>
        <Box sx={{ flex: 1 }} />
        <span className="dim">on</span>
        <Select
          size="small"
          value={archiveId ?? ''}
          onChange={(event) => setArchiveId(Number(event.target.value))}
          inputProps={{ 'aria-label': 'Sample file' }}
          sx={{ minWidth: 200 }}
        >
          {archives.map(({ id, path, state }) => (
            <MenuItem key={id} value={id}>{`${path}${state === 'open' ? '' : ` · ${state}`}`}</MenuItem>
          ))}
        </Select>
      </Box>
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
            <>
              <Button variant="contained" disabled={!compiles || !changed || save.isPending} onClick={() => save.mutate(undefined)}>
                {recipe === undefined ? 'Save' : `Save revision ${next}`}
              </Button>
              <Button onClick={() => setDialog('try-all')} disabled={!compiles || archives.length === 0}>
                Try on all
              </Button>
            </>
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
const bar = {
  flex: 'none',
  display: 'flex',
  alignItems: 'center',
  gap: 1,
  px: 1.75,
  py: 0.9,
  borderBottom: '1px solid var(--line)',
} as const;
