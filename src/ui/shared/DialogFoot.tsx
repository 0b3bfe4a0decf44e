import Button, { type ButtonProps } from '@mui/material/Button';
import DialogActions from '@mui/material/DialogActions';

/** The end of a dialog: to leave it as it was, and to do what it is for. */
export function DialogFoot({ onClose, ...verb }: { onClose: () => void } & Omit<ButtonProps, 'variant'>) {
  return (
    <DialogActions sx={{ px: 3, pb: 2 }}>
      <Button variant="text" onClick={onClose}>
        Not now
      </Button>
      <Button variant="contained" {...verb} />
    </DialogActions>
  );
}
