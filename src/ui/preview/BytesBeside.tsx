'use client';
import Box from '@mui/material/Box';
import { Labelled } from '../shared/Labelled';
import { BytesView, type ByteMark } from './BytesView';

export interface BytesSide {
  /** Its plain bytes are below this address. */
  readonly subject: string;
  readonly label: string;
  readonly size: number;
  /** Bytes that the other side has otherwise. */
  readonly marks?: readonly ByteMark[];
}

/** Both as bytes; where they first differ comes into view. */
export function BytesBeside({ before, after }: { before: BytesSide; after: BytesSide }) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
      {[before, after].map(({ subject, label, size, marks }) => (
        <Labelled key={subject} label={label}>
          <BytesView
            url={`${subject}/bytes`}
            size={size}
            {...(marks === undefined ? {} : { marks })}
            {...(marks?.[0] === undefined ? {} : { reveal: { at: marks[0].at, turn: 0 } })}
          />
        </Labelled>
      ))}
    </Box>
  );
}
