'use client';
import Dialog from '@mui/material/Dialog';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { SHORTCUTS } from './shortcuts';

export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ fontSize: 16, fontWeight: 600 }}>Keys</DialogTitle>
      <DialogContent>
        <table style={{ width: '100%', borderSpacing: '0 8px' }}>
          <tbody>
            {SHORTCUTS.map((shortcut) => (
              <tr key={shortcut.keys + shortcut.what}>
                <td className="mono" style={{ width: 130 }}>
                  {shortcut.keys}
                </td>
                <td>{shortcut.what}</td>
                <td className="dim">{shortcut.where}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
    </Dialog>
  );
}
