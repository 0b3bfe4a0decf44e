'use client';
import Box from '@mui/material/Box';
import { useState } from 'react';
import { FaultNote } from '../../shared/states';
import type { SubjectAddress } from '../form-view';

interface Props {
  readonly subject: SubjectAddress;
  /** A sample of its letters when it is empty. */
  readonly text: string;
  /** Pixels of an em. */
  readonly size: number;
  /** Outlines take the colour of the page; letters that are pictures have their own. Undefined where that is not known. */
  readonly isOutline?: boolean;
}

/** A line of text as the font draws it. */
export function FontLine({ subject, text, size, isOutline }: Props) {
  const query = new URLSearchParams({ size: String(size), ...(text === '' ? {} : { text }) });
  const address = `${subject}/line?${query.toString()}`;
  const [failed, setFailed] = useState<string>();
  if (failed === address)
    return (
      <FaultNote tone="brass">
        This line cannot be drawn. The font may be damaged, or the picture with its letters missing.
      </FaultNote>
    );
  const name = text === '' ? 'A sample of the font' : text;
  return (
    <Box
      tabIndex={0}
      role="group"
      aria-label="The line in this font"
      sx={{
        overflowX: 'auto',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: isOutline === true ? 'var(--paper)' : '#7d8288',
        p: 1,
      }}
    >
      <img
        src={address}
        alt={name}
        onError={() => setFailed(address)}
        className={isOutline === true ? 'ink-picture' : undefined}
        style={{ display: 'block', maxWidth: 'none', imageRendering: isOutline === false ? 'pixelated' : undefined }}
      />
    </Box>
  );
}
