'use client';
import { yaml } from '@codemirror/lang-yaml';
import { MergeView } from '@codemirror/merge';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import dayjs from 'dayjs';
import { useEffect, useState } from 'react';
import type { RecipeAnswer } from '../../server/shapes';

interface Props {
  readonly recipe: RecipeAnswer;
  readonly text: string;
  readonly onClose: () => void;
  readonly onTake: (text: string) => void;
}

/** An older revision beside what is in the editor. */
export function CompareDialog({ recipe, text, onClose, onTake }: Props) {
  const [index, setIndex] = useState(0);
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const revision = recipe.revisions[index]!;
  useEffect(() => {
    if (box === null) return;
    const extensions = [yaml(), lineNumbers(), EditorState.readOnly.of(true), EditorView.lineWrapping];
    const view = new MergeView({ a: { doc: revision.text, extensions }, b: { doc: text, extensions }, parent: box });
    return () => view.destroy();
  }, [box, revision, text]);
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="compare-title">
      <DialogTitle id="compare-title" sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
        {recipe.title}
        <Select
          size="small"
          value={index}
          onChange={(event) => setIndex(Number(event.target.value))}
          inputProps={{ 'aria-label': 'Revision' }}
        >
          {recipe.revisions.map((one, i) => (
            <MenuItem key={i} value={i}>
              {`revision ${one.revision}, ${one.savedAt === null ? 'as it ships' : dayjs(one.savedAt).format('D MMM YYYY HH:mm')}`}
            </MenuItem>
          ))}
        </Select>
        <span className="dim">beside what is in the editor</span>
      </DialogTitle>
      <Box ref={setBox} sx={{ height: 480, overflow: 'auto', fontSize: 11.5, borderTop: '1px solid var(--line)' }} />
      <DialogActions>
        <Button
          onClick={() => {
            onTake(revision.text);
            onClose();
          }}
        >
          Take this revision into the editor
        </Button>
        <Button variant="contained" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}
