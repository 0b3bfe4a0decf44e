'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { LanguageAnswer, LanguageOrder, WordTablesAnswer } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { call } from '../shared/api';
import { count } from '../shared/format';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

const CODE = /^[A-Za-z]{2,8}([-_][A-Za-z0-9]{1,8})*$/;

/** A language the game does not have yet, made of one it has. */
export function NewLanguage({
  gameId,
  tables,
  languages,
  from: first,
  onAdded,
  onClose,
}: {
  gameId: number;
  tables: WordTablesAnswer;
  languages: readonly LanguageAnswer[];
  from: number;
  onAdded: (code: string) => void;
  onClose: () => void;
}) {
  const [from, setFrom] = useState(first);
  const [code, setCode] = useState('');
  const [typed, setAbout] = useState<string>();
  const locale = tables.find(({ archive }) => archive === from)?.locale;
  const old = languages.find((language) => language.code === locale);
  const about = typed ?? old?.about ?? '';
  const right = CODE.test(code);
  const known = right && tables.some((table) => table.locale === code);
  const add = useGameMutation(
    gameId,
    (order: LanguageOrder) => call('POST games/{game}/words/languages', { game: gameId, body: order }),
    { showsFault: true },
  );
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate(
            { from, code, about },
            {
              onSuccess: () => {
                onAdded(code);
                onClose();
              },
            },
          );
        }}
      >
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>A new language</DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.75 }}>
          <Box className="dim">
            It starts with the texts of an existing one, which are left to translate. The file is one change: undo it to
            remove the language.
          </Box>
          <TextField
            select
            size="small"
            label="Based on"
            value={from}
            onChange={(event) => setFrom(Number(event.target.value))}
            sx={{ mt: 0.75 }}
          >
            {tables.map((table) => (
              <MenuItem key={table.archive} value={table.archive}>
                {visible(table.locale)}, {visible(table.path)} ({count(table.texts)})
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            autoFocus
            label="Its code"
            placeholder="es"
            value={code}
            onChange={(event) => setCode(event.target.value.trim())}
            error={code !== '' && (!right || known)}
            helperText={
              known
                ? 'There is a table of that language.'
                : right
                  ? languageName(code)
                  : 'As the game writes codes: es, pt-BR'
            }
            slotProps={{ htmlInput: { className: 'mono' } }}
          />
          {languages.length > 0 && (
            <TextField
              size="small"
              multiline
              minRows={2}
              maxRows={8}
              label="Name in the game’s menu"
              value={about}
              onChange={(event) => setAbout(event.target.value)}
              helperText={`The menu shows ${languages.map((language) => language.code).join(', ')}${right && !known ? ` and then ${code}` : ''}.`}
              slotProps={{ htmlInput: { className: 'mono' } }}
            />
          )}
          {add.error !== null && <FaultNote>{add.error.message}</FaultNote>}
        </DialogContent>
        <DialogFoot onClose={onClose} type="submit" disabled={!right || known || add.isPending}>
          Make it
        </DialogFoot>
      </form>
    </Dialog>
  );
}

/** What people call a language, as far as the browser knows it. */
export function languageName(code: string): string {
  try {
    return new Intl.DisplayNames('en', { type: 'language', fallback: 'none' }).of(code.replaceAll('_', '-')) ?? '';
  } catch {
    return '';
  }
}
