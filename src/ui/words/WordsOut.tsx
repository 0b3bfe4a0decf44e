'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import { WORD_FILES } from '../../core/forms/words/out-formats';

/** The texts of a pair as a file that translators know. */
export function WordsOut({ url, locale }: { url: string; locale: string }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button variant="text" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
        Take texts out…
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {WORD_FILES.map((as) => (
          <MenuItem
            key={as}
            dense
            component="a"
            href={`${url}&as=${as}`}
            download={`${locale}.${as}`}
            onClick={() => setAnchor(null)}
          >
            {as.toUpperCase()}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
