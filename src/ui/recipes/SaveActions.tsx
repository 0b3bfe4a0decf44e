'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';

interface Props {
  readonly everywhere: boolean;
  readonly onEverywhere: (everywhere: boolean) => void;
  /** Undefined for the first one. */
  readonly nextRevision: number | undefined;
  readonly canSave: boolean;
  readonly canTry: boolean;
  readonly onSave: () => void;
  readonly onTryAll: () => void;
}

/** What is done with the recipe in the editor: where it counts, saving it, and trying it on all archives. */
export function SaveActions({ everywhere, onEverywhere, nextRevision, canSave, canTry, onSave, onTryAll }: Props) {
  return (
    <>
      <FormControlLabel
        sx={{ width: '100%' }}
        control={<Checkbox checked={everywhere} onChange={(_, checked) => onEverywhere(checked)} />}
        label="In all games"
      />
      <Button variant="contained" disabled={!canSave} onClick={onSave}>
        {nextRevision === undefined ? 'Save' : `Save revision ${nextRevision}`}
      </Button>
      <Button onClick={onTryAll} disabled={!canTry}>
        Try on all
      </Button>
    </>
  );
}
