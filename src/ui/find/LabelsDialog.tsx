'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useRef, useState } from 'react';
import type { LabelTableAnswer } from '../../server/shapes';
import { type BodyOf, call } from '../shared/api';
import { FilePick } from '../shared/FilePick';
import { counted, fileName } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import { FaultNote } from '../shared/states';

const WAYS: Readonly<Record<LabelTableAnswer['ways'][number]['take'], { title: string; words: string }>> = {
  'by path': { title: 'By path or name', words: 'Rows give a path, or a unique name.' },
  'from 0': { title: 'Numbers as they are', words: '9 is the entry with 9 in its name, or in the tenth place.' },
  'from 1': { title: 'The table counts from 1', words: '9 is the entry with 8 in its name, or in the ninth place.' },
};

/** Labels in and out as a table. A table of numbers is shown as both ways of counting would have it. */
export function LabelsDialog({ gameId, folder, onClose }: { gameId: number; folder: string; onClose: () => void }) {
  const [file, setFile] = useState<{ name: string; text: string }>();
  const pick = useRef<HTMLInputElement>(null);
  const say = useNotice();
  const lay = useGameMutation(
    gameId,
    (order: BodyOf<'POST games/{game}/labels/table'>) =>
      call('POST games/{game}/labels/table', { game: gameId, body: { folder, ...order } }),
    { showsFault: true },
  );
  const bring = async (chosen: File) => {
    const text = await chosen.text();
    setFile({ name: chosen.name, text });
    lay.mutate({ text });
  };
  const take = async (way: LabelTableAnswer['ways'][number]['take']) => {
    const { set } = await lay.mutateAsync({ text: file!.text, take: way });
    say({ tone: 'success', text: `${counted(set, 'entry', 'entries')} labelled.` });
    onClose();
  };
  const answer = lay.data;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md">
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Labels as a table</DialogTitle>
      <DialogContent>
        <Box sx={{ mb: 1.5 }}>
          A CSV file of two columns: a path, a name or a number, and what it is. Numbers are counted within{' '}
          {folder === '' ? 'a folder: choose one in Find first.' : <b>{folder}/</b>}
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mb: 1.5, alignItems: 'center' }}>
          <Button variant="contained" onClick={() => pick.current?.click()} disabled={lay.isPending}>
            Import a table…
          </Button>
          <Button component="a" href={`/api/games/${gameId}/labels`} download="labels.csv">
            Export all labels
          </Button>
          {file !== undefined && <span className="dim">{file.name}</span>}
        </Box>
        <FilePick
          pickRef={pick}
          label="The table of labels"
          testId="label-table"
          onPick={(chosen) => void bring(chosen)}
        />
        {lay.error !== null && <FaultNote>{lay.error.message}</FaultNote>}
        {answer !== undefined && lay.error === null && (
          <Box sx={{ display: 'grid', gridTemplateColumns: `repeat(${answer.ways.length}, 1fr)`, gap: 2 }}>
            {answer.ways.map((way) => (
              <Box key={way.take} component="section" aria-label={WAYS[way.take].title}>
                <Box sx={{ fontWeight: 600 }}>{WAYS[way.take].title}</Box>
                <Box className="dim" sx={{ mb: 1 }}>
                  {WAYS[way.take].words} {way.fits} of {counted(answer.rows, 'row')} fit.
                </Box>
                {way.shown.map(({ path, text }) => (
                  <Box key={path} sx={{ display: 'flex', gap: 1, py: 0.25, borderBottom: '1px solid var(--line)' }}>
                    <Box
                      className="mono"
                      title={path}
                      sx={{
                        width: '45%',
                        flex: 'none',
                        overflow: 'hidden',
                        textOverflow: 'ellipsis',
                        whiteSpace: 'nowrap',
                      }}
                    >
                      {fileName(path)}
                    </Box>
                    <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{text}</Box>
                  </Box>
                ))}
                {way.unmatched.length > 0 && (
                  <Box className="dim" sx={{ mt: 0.75 }}>
                    No entry for {way.unmatched.map(({ of, line }) => `${of} (line ${line})`).join(', ')}
                    {answer.rows - way.fits > way.unmatched.length ? ' and more' : ''}.
                  </Box>
                )}
                <Button
                  sx={{ mt: 1.25 }}
                  variant="contained"
                  disabled={way.fits === 0 || lay.isPending}
                  onClick={() => void take(way.take).catch(() => {})}
                >
                  Label {counted(way.fits, 'entry', 'entries')} so
                </Button>
              </Box>
            ))}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
