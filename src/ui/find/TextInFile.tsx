'use client';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { HitAnswer, TextOrder } from '../../server/shapes';
import { DialogFoot } from '../shared/DialogFoot';
import { call } from '../shared/api';
import { count, fileName, offset } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

const TEXT_FORMS = /^(UTF|WINDOWS|SHIFT)/;

/** Whether the text at a hit can be changed: only in files of unknown format. */
export const isChangeable = ({ form, kind, n }: HitAnswer): boolean =>
  TEXT_FORMS.test(form) && (n < 0 || kind === 'bytes');

/** Other words for a text inside a file, of the same length; the file joins builds only when that is said. */
export function TextInFile({ gameId, hit, onClose }: { gameId: number; hit: HitAnswer; onClose: () => void }) {
  const { archive, n, at, length, form } = hit;
  const place = { archive, n, at, length, encoding: form.toLowerCase() as TextOrder['encoding'] };
  const { data, error } = useQuery({
    queryKey: ['game', gameId, 'text-in-file', place],
    queryFn: () => call('GET games/{game}/inside/text', { game: gameId, query: place }),
  });
  const [typed, setTyped] = useState<string>();
  const [join, setJoin] = useState(false);
  const say = useNotice();
  const keep = useGameMutation(
    gameId,
    (text: string) =>
      call('POST games/{game}/inside/text', { game: gameId, body: { ...place, text, join } satisfies TextOrder }),
    { showsFault: true },
  );
  const text = typed ?? data?.text ?? '';
  const bytes = bytesOf(text, place.encoding);
  const room = data?.length ?? 0;
  const longer = data !== undefined && bytes !== undefined && bytes > room;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          keep.mutate(text, {
            onSuccess: () => {
              const more = join ? '' : ' It is in no build until you bring it back on Change.';
              say({ tone: 'success', text: `The text is kept as a change.${more}` });
              onClose();
            },
          });
        }}
      >
        <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>A text in {fileName(hit.path)}</DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
          {error !== null && <FaultNote>{error.message}</FaultNote>}
          {data !== undefined && (
            <>
              <Box className="dim">
                At {offset(data.at)}, {form}. The format of this file is not known: the text keeps its {count(room)}{' '}
                bytes, and a shorter one is filled with {data.fill}
                {data.counted > 0 && ', for a number in front of it says how long it is'}.
              </Box>
              <TextField
                autoFocus
                multiline
                minRows={2}
                maxRows={10}
                label="Text"
                value={text}
                onChange={(event) => setTyped(event.target.value)}
                error={longer}
                helperText={bytes === undefined ? '' : `${count(bytes)} of ${count(room)} bytes`}
                slotProps={{ htmlInput: { className: 'mono' } }}
                sx={{ mt: 0.75 }}
              />
              <FormControlLabel
                control={<Checkbox size="small" checked={join} onChange={(event) => setJoin(event.target.checked)} />}
                label={`${fileName(hit.path)} goes into builds with it`}
              />
            </>
          )}
          {keep.error !== null && <FaultNote>{keep.error.message}</FaultNote>}
        </DialogContent>
        <DialogFoot
          onClose={onClose}
          type="submit"

          disabled={data === undefined || longer || text === data.text || keep.isPending}
        >
          Save
        </DialogFoot>
      </form>
    </Dialog>
  );
}

/** Bytes a text takes, where that is plain; the server knows the rest. */
function bytesOf(text: string, encoding: TextOrder['encoding']): number | undefined {
  if (encoding === 'utf-8') return new TextEncoder().encode(text).length;
  if (encoding.startsWith('utf-16')) return text.length * 2;
  return encoding === 'windows-1252' ? [...text].length : undefined;
}
