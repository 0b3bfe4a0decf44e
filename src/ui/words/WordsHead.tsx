import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import type { LanguageAnswer, WordsAnswer, WordTablesAnswer } from '../../server/shapes';
import { count, counted } from '../shared/format';
import { languageName } from './NewLanguage';
import type { Pair } from './pair';

interface Props {
  readonly tables: WordTablesAnswer;
  readonly languages: readonly LanguageAnswer[];
  readonly pair: Pair;
  readonly counts: WordsAnswer['counts'] | undefined;
  readonly onPair: (pair: Pair) => void;
  readonly onNewLanguage: () => void;
}

/** Which two tables are shown, how much is done, and the languages that the game offers. */
export function WordsHead({ tables, languages, pair, counts, onPair, onNewLanguage }: Props) {
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 1.5, flexWrap: 'wrap', mb: 1.5 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h1">Words</Typography>
          <Box className="dim">
            {counts === undefined
              ? ' '
              : `${counted(counts.all, 'text')}: ${count(counts.done + counts.changed)} done, ${count(counts.left)} left to do`}
          </Box>
        </Box>
        <TableField label="From" tables={tables} value={pair.from} onChange={(from) => onPair({ ...pair, from })} />
        <TableField label="Into" tables={tables} value={pair.to} onChange={(to) => onPair({ ...pair, to })} />
        <Button onClick={onNewLanguage}>New language…</Button>
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
      {counts !== undefined && <Progress counts={counts} />}
    </>
  );
}

function TableField({
  label,
  tables,
  value,
  onChange,
}: {
  readonly label: string;
  readonly tables: WordTablesAnswer;
  readonly value: number;
  readonly onChange: (archive: number) => void;
}) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(event) => onChange(Number(event.target.value))}
      sx={{ minWidth: 190 }}
    >
      {tables.map(({ archive, path, locale, texts }) => (
        <MenuItem key={archive} value={archive}>
          {visible(locale)}, {visible(path)} ({count(texts)})
        </MenuItem>
      ))}
    </TextField>
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
