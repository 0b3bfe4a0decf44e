'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { EntryDetails } from '../../server/shapes';
import { folderOf, offset } from '../shared/format';
import { useNotice } from '../shared/notices';

/** Path, name, folder or reference of an entry, copied. */
export function CopyMenu({ entry }: { entry: EntryDetails }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const say = useNotice();
  const parts = {
    Path: entry.path,
    Name: entry.name,
    Folder: folderOf(entry.path),
    Reference: `${entry.file} ${offset(entry.at)} ${entry.stored} ${entry.path}`,
  };
  const copy = async (what: string, text: string) => {
    setAnchor(null);
    try {
      await navigator.clipboard.writeText(text);
      say({ tone: 'success', text: `${what} copied: ${text}` });
    } catch {
      say({ tone: 'error', text: 'The browser does not allow copying. Select the text and copy it yourself.' });
    }
  };
  return (
    <>
      <Button
        variant="text"
        aria-haspopup="menu"
        onClick={(event) => setAnchor(event.currentTarget)}
        sx={{
          p: 0,
          minWidth: 0,
          minHeight: 0,
          fontSize: 12,
          lineHeight: '16px',
          color: 'var(--dim)',
          textDecoration: 'underline',
        }}
      >
        Copy…
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {Object.entries(parts).map(([what, text]) => (
          <MenuItem key={what} dense disabled={text === ''} onClick={() => void copy(what, text)}>
            {what}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
