import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import type { WordsAnswer, WordsQuery, WordTablesAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { count } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { BringTexts } from './BringTexts';
import type { Pair } from './pair';
import { WordsOut } from './WordsOut';

type Show = WordsQuery['show'];

const SHOWS: readonly (readonly [Show, string])[] = [
  ['all', 'All'],
  ['left', 'Left to do'],
  ['changed', 'Changed'],
  ['wrong', 'With problems'],
];

/** What of the texts is shown, and how typed ones are kept. */
export interface WordsSetting {
  readonly typed: string;
  readonly show: Show;
  readonly grouped: boolean;
  /** What the game cannot show is spelled out. */
  readonly spells: boolean;
}

interface Props {
  readonly gameId: number;
  readonly pair: Pair;
  readonly target: WordTablesAnswer[number] | undefined;
  readonly data: WordsAnswer | undefined;
  readonly setting: WordsSetting;
  readonly onSetting: (next: Partial<WordsSetting>) => void;
  readonly onReplace: () => void;
}

/** Search, filters, and what is done with all texts at once. */
export function WordsTools({ gameId, pair, target, data, setting, onSetting, onReplace }: Props) {
  const { typed, show, grouped, spells } = setting;
  const spell = target?.spells === true && spells;
  const twins = useGameMutation(gameId, () =>
    call('POST games/{game}/words/twins', { game: gameId, body: { ...pair, spell } }),
  );
  return (
    <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', flexWrap: 'wrap', mt: 1.25 }}>
      <TextField
        size="small"
        placeholder="Part of a key or text"
        value={typed}
        onChange={(event) => onSetting({ typed: event.target.value })}
        slotProps={{ htmlInput: { 'aria-label': 'Search in the texts' } }}
        sx={{ width: 230 }}
      />
      {SHOWS.map(([one, word]) => (
        <Chip key={one} on={show === one} onClick={() => onSetting({ show: one })}>
          {word} {data !== undefined && <span className="dim">{count(data.counts[one])}</span>}
        </Chip>
      ))}
      <Box sx={{ flex: 1 }} />
      {data !== undefined && data.groups.length > 1 && (
        <Chip on={grouped} onClick={() => onSetting({ grouped: !grouped })} label="How much is done by group">
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
        <Chip on={spells} onClick={() => onSetting({ spells: !spells })} label="Spell out what the game cannot show">
          Spell out
        </Chip>
      )}
      <Button variant="text" onClick={onReplace}>
        Find and replace…
      </Button>
      <WordsOut
        url={`/api/games/${gameId}/words/file?from=${pair.from}&to=${pair.to}`}
        locale={target?.locale ?? 'texts'}
      />
      <BringTexts gameId={gameId} pair={pair} spell={spell} />
    </Box>
  );
}
