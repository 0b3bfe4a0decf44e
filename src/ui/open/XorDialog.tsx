'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { ArchiveAnswer } from '../../server/shapes';
import { call } from '../shared/api';
import { Card } from '../shared/Card';
import { counted, offset } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

/** The first bytes of open formats, which every file of theirs has. */
const SIGNATURES: Readonly<Record<string, { readonly title: string; readonly hex: string }>> = {
  png: { title: 'a PNG picture', hex: '89504e470d0a1a0a0000000d49484452' },
  zip: { title: 'a ZIP archive (only 4 bytes)', hex: '504b0304' },
  ogg: { title: 'an Ogg sound', hex: '4f676753000200000000000000' },
  flac: { title: 'a FLAC sound', hex: '664c6143000000221000' },
  sqlite: { title: 'an SQLite database', hex: '53514c69746520666f726d6174203300' },
  xml: {
    title: 'an XML text',
    hex: Array.from(new TextEncoder().encode('<?xml version="1.0" encoding='), (byte) =>
      byte.toString(16).padStart(2, '0'),
    ).join(''),
  },
};

type Known = keyof typeof SIGNATURES | 'text' | 'hex';

/** Solves a repeating XOR from bytes whose plain form is known; shows the start of the file read with each solution. */
export function XorDialog({
  gameId,
  archive,
  onClose,
}: {
  gameId: number;
  archive: ArchiveAnswer;
  onClose: () => void;
}) {
  const [known, setKnown] = useState<Known>('png');
  const [words, setWords] = useState('');
  const [place, setPlace] = useState('0');
  const [anywhere, setAnywhere] = useState(false);
  const say = useNotice();
  const at = place.trim() === '' ? NaN : Number(place);
  const bytes =
    known === 'text' ? { text: words } : { hex: known === 'hex' ? words.replace(/\s/g, '') : SIGNATURES[known]!.hex };
  const solve = useGameMutation(
    gameId,
    (keep: number | undefined) =>
      call('POST games/{game}/archives/{archive}/xor', {
        game: gameId,
        archive: archive.id,
        body: { ...bytes, ...(anywhere ? {} : { at }), ...(keep === undefined ? {} : { keep }) },
      }),
    { showsFault: true },
  );
  const keep = async (index: number) => {
    const { run } = await solve.mutateAsync(index);
    say({
      tone: 'success',
      text: run === null ? 'The key is kept. A recipe can ask for it now.' : 'The key is being tried.',
    });
    onClose();
  };
  const ready = (anywhere || Number.isInteger(at)) && (known in SIGNATURES || words.trim() !== '');
  const answer = solve.data;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Solve a repeating XOR in {archive.path}</DialogTitle>
      <DialogContent>
        <Box className="dim" sx={{ mb: 1.5 }}>
          If some bytes of the plain file are known, the key can be worked out from them. Enter what they are.
        </Box>
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
          <TextField
            select
            value={known}
            onChange={(event) => setKnown(event.target.value as Known)}
            slotProps={{ select: { 'aria-label': 'Known bytes' } }}
            sx={{ minWidth: 210 }}
          >
            {Object.entries(SIGNATURES).map(([id, { title }]) => (
              <MenuItem key={id} value={id}>
                The start of {title}
              </MenuItem>
            ))}
            <MenuItem value="text">A text I know</MenuItem>
            <MenuItem value="hex">Bytes I know, in hex</MenuItem>
          </TextField>
          {(known === 'text' || known === 'hex') && (
            <TextField
              value={words}
              onChange={(event) => setWords(event.target.value)}
              placeholder={known === 'text' ? 'at least a few words' : '4F 67 67 53'}
              slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'The known bytes' } }}
              sx={{ flex: 1, minWidth: 180 }}
            />
          )}
          <TextField
            select
            value={anywhere ? 'anywhere' : 'at'}
            onChange={(event) => setAnywhere(event.target.value === 'anywhere')}
            slotProps={{ select: { 'aria-label': 'Position' } }}
          >
            <MenuItem value="at">at offset</MenuItem>
            <MenuItem value="anywhere">anywhere in the first MB</MenuItem>
          </TextField>
          {!anywhere && (
            <TextField
              value={place}
              onChange={(event) => setPlace(event.target.value)}
              slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Offset', inputMode: 'numeric' } }}
              sx={{ width: 90 }}
            />
          )}
          <Button variant="contained" disabled={!ready || solve.isPending} onClick={() => solve.mutate(undefined)}>
            {solve.isPending ? 'Solving…' : 'Solve'}
          </Button>
        </Box>
        {solve.error !== null && (
          <Box sx={{ mt: 1.5 }}>
            <FaultNote>{solve.error.message}</FaultNote>
          </Box>
        )}
        {answer !== undefined && answer.solutions.length === 0 && (
          <Box sx={{ mt: 1.5 }}>
            <FaultNote tone="brass">
              No key that repeats explains these {answer.known} bytes anywhere. Is it another cipher, or are the bytes
              different?
            </FaultNote>
          </Box>
        )}
        {answer?.solutions.map((one, index) => (
          <Card key={`${one.at} ${one.mask}`} data-testid="xor-solution" sx={{ mt: 1.25 }}>
            <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
              <Box sx={{ flex: 1 }}>
                <b>A key of {counted(one.period, 'byte')}</b> <span className="mono">{one.mask}</span>
                <Box
                  className={one.confirmed >= 3 ? 'dim' : ''}
                  sx={one.confirmed >= 3 ? {} : { color: 'var(--brass)' }}
                >
                  {one.confirmed === 0
                    ? 'Nothing confirms it: any key of that length would fit. Enter more bytes.'
                    : `${counted(one.confirmed, 'further byte')} at ${offset(one.at)} ${one.confirmed === 1 ? 'agrees' : 'agree'} with it.`}
                </Box>
              </Box>
              <Button onClick={() => void keep(index).catch(() => {})} disabled={solve.isPending}>
                Keep this key
              </Button>
            </Box>
            <Box className="mono" sx={{ mt: 1, whiteSpace: 'pre-wrap', wordBreak: 'break-all' }}>
              {asText(one.preview)}
            </Box>
          </Card>
        ))}
      </DialogContent>
      <DialogActions sx={{ px: 3, pb: 2 }}>
        <Button variant="text" onClick={onClose}>
          Not now
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** Printable bytes as they are, others as dots. */
function asText(hex: string): string {
  return (hex.match(/../g) ?? [])
    .map((byte) => parseInt(byte, 16))
    .map((byte) => (byte >= 0x20 && byte < 0x7f ? String.fromCharCode(byte) : '·'))
    .join('');
}
