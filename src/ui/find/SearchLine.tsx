'use client';
import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import type { Ref } from 'react';
import { SEARCH_WORDS } from '../../core/catalogue';
import { KIND_NAMES, type SavedSearch } from '../../server/shapes';

interface Suggestion {
  /** What the line becomes. */
  readonly line: string;
  readonly word: string;
  readonly meaning: string;
  readonly saved?: SavedSearch;
}

interface Props {
  readonly value: string;
  readonly onChange: (line: string) => void;
  readonly archives: readonly string[];
  readonly saved: readonly SavedSearch[];
  readonly onSaved: (search: SavedSearch) => void;
  readonly fieldRef: Ref<HTMLInputElement>;
}

/** The search line, with what may come next offered while it is typed. */
export function SearchLine({ value, onChange, archives, saved, onSaved, fieldRef }: Props) {
  const suggestions = suggest(value, archives, saved);
  return (
    <Autocomplete<Suggestion, false, false, true>
      freeSolo
      options={suggestions}
      filterOptions={(options) => options}
      getOptionLabel={(option) => (typeof option === 'string' ? option : option.line)}
      getOptionKey={(option) => (typeof option === 'string' ? option : option.word)}
      inputValue={value}
      onInputChange={(_, line, reason) => reason === 'input' && onChange(line)}
      value={null}
      onChange={(_, option) => {
        if (option === null || typeof option === 'string') return;
        if (option.saved === undefined) onChange(option.line);
        else onSaved(option.saved);
      }}
      openOnFocus={saved.length > 0}
      sx={{ flex: '1 1 140px' }}
      slotProps={{ paper: { elevation: 3 }, popper: { placement: 'bottom-start', sx: { minWidth: 380 } } }}
      renderOption={({ key, ...props }, { word, meaning }) => (
        <Box component="li" key={key} {...props} sx={{ gap: 1.5, fontSize: 13 }}>
          <Box component="span" className="mono" sx={{ minWidth: 90 }}>
            {word}
          </Box>
          <span className="dim">{meaning}</span>
        </Box>
      )}
      renderInput={({ slotProps }) => (
        <InputBase
          {...slotProps.input}
          inputRef={fieldRef}
          placeholder="Words, kind:sound, size:>64k, -not"
          inputProps={{ ...slotProps.htmlInput, 'aria-label': 'Search', spellCheck: false }}
          onKeyDown={(event) => event.key === 'Escape' && value !== '' && onChange('')}
          sx={{
            width: '100%',
            border: '1px solid var(--line)',
            borderRadius: 1,
            background: 'var(--sheet)',
            px: 1.25,
            height: 32,
            fontSize: 13,
            '&:focus-within': { outline: '2px solid var(--teal)' },
          }}
        />
      )}
    />
  );
}

/** What may be in place of the last word of a line. */
function suggest(line: string, archives: readonly string[], saved: readonly SavedSearch[]): Suggestion[] {
  const start = line.search(/\S*$/);
  const last = line.slice(start);
  const minus = last.startsWith('-') ? '-' : '';
  const word = last.slice(minus.length).toLowerCase();
  const become = (text: string) => `${line.slice(0, start)}${minus}${text}`;
  if (line.trim() === '')
    return saved.map((search) => ({
      line: search.name,
      word: search.name,
      meaning: 'a saved search',
      saved: search,
    }));
  const [key = '', typed] = word.split(':');
  if (typed === undefined) {
    if (word === '') return [];
    return Object.entries(SEARCH_WORDS)
      .filter(([one]) => one.startsWith(word))
      .map(([one, meaning]) => ({ line: become(`${one}:`), word: `${minus}${one}:`, meaning }));
  }
  const offer = (values: readonly string[], meaning: string) =>
    values
      .filter((one) => one.toLowerCase().includes(typed) && one.toLowerCase() !== typed)
      .slice(0, 8)
      .map((one) => ({ line: `${become(`${key}:${one}`)} `, word: `${minus}${key}:${one}`, meaning }));
  if (key === 'kind') return offer(KIND_NAMES, '');
  if (key === 'archive')
    return offer(
      archives.filter((one) => !/\s/.test(one)),
      'an archive of this game',
    );
  if (key === 'size') return offer(['>64k', '>1mb', '<4k'], 'of that size');
  return [];
}
