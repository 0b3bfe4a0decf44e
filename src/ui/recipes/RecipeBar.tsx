import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Stack from '@mui/material/Stack';
import Tooltip from '@mui/material/Tooltip';
import { useRef } from 'react';
import type { ArchiveAnswer, RecipeAnswer } from '../../server/shapes';
import { download } from '../shared/download';

interface Props {
  recipes: readonly RecipeAnswer[];
  /** The one that is open; undefined for one that is not saved yet. */
  recipe: RecipeAnswer | undefined;
  /** As it is in the editor. */
  text: string;
  archives: readonly ArchiveAnswer[];
  archiveId: number | undefined;
  onChoose: (id: string) => void;
  onBegin: () => void;
  /** A file with a recipe, or with several. */
  onFile: (file: File) => void;
  onTakeAll: () => void;
  onCompare: () => void;
  onSample: (archive: number) => void;
}

/** Which recipe is open, and which file it is tried on. */
export function RecipeBar(props: Props) {
  const { recipes, recipe, text, archives, archiveId, onChoose, onBegin, onFile, onTakeAll, onCompare, onSample } = props;
  const fileInput = useRef<HTMLInputElement>(null);
  return (
    <Stack direction="row" role="toolbar" aria-label="Recipe" sx={bar}>
      <Select
        size="small"
        displayEmpty
        value={recipe?.id ?? ''}
        onChange={(event) => onChoose(event.target.value)}
        inputProps={{ 'aria-label': 'Recipe' }}
        sx={{ minWidth: 240 }}
      >
        {recipe === undefined && (
          <MenuItem value="">
            <i>not saved yet</i>
          </MenuItem>
        )}
        {recipes.map((one) => (
          <MenuItem key={one.id} value={one.id}>
            {titleOf(one)}
          </MenuItem>
        ))}
      </Select>
      <Button onClick={onBegin}>Write a new one</Button>
      <Button onClick={() => fileInput.current?.click()}>Bring in</Button>
      <input
        ref={fileInput}
        hidden
        type="file"
        accept=".yaml,.yml,.zip"
        aria-label="Recipe file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file !== undefined) onFile(file);
          event.target.value = '';
        }}
      />
      <Button onClick={() => takeOut(text)}>Take out</Button>
      <Tooltip describeChild title="The recipes that this game uses, as a ZIP to pass on">
        <Button onClick={onTakeAll}>Take all out</Button>
      </Tooltip>
      <Button onClick={onCompare} disabled={recipe === undefined}>
        Compare
      </Button>
      <span className="dim" style={{ marginLeft: 'auto' }}>
        on
      </span>
      <Select
        size="small"
        value={archiveId ?? ''}
        onChange={(event) => onSample(Number(event.target.value))}
        inputProps={{ 'aria-label': 'Sample file' }}
        sx={{ minWidth: 200 }}
      >
        {archives.map(({ id, path, state }) => (
          <MenuItem key={id} value={id}>{`${path}${state === 'open' ? '' : ` · ${state}`}`}</MenuItem>
        ))}
      </Select>
    </Stack>
  );
}

const gamesOf = (count: number): string => (count === 1 ? 'one game' : count === 0 ? 'no game' : `${count} games`);

/** What a recipe is called, with whose it is and where it counts. */
export function titleOf({ title, revision, shipped, scope, fault }: RecipeAnswer): string {
  const facts = [`revision ${revision}`];
  if (!shipped) facts.push(`yours${scope === null || scope.everywhere ? '' : `, in ${gamesOf(scope.games.length)}`}`);
  if (fault !== null) facts.push('has errors');
  return `${title} · ${facts.join(', ')}`;
}

function takeOut(text: string): void {
  const name = /^recipe:\s*(\S+)/m.exec(text)?.[1] ?? 'recipe';
  download(new Blob([text], { type: 'application/yaml' }), `${name}.yaml`);
}

const bar = {
  flex: 'none',
  alignItems: 'center',
  gap: 1,
  px: 1.75,
  py: 0.9,
  borderBottom: '1px solid var(--line)',
} as const;
