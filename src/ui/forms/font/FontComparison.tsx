'use client';
import Box from '@mui/material/Box';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { useSettled } from '../../shared/use-settled';
import type { FormSide } from '../form-view';
import { FontLine } from './FontLine';

/** The same line in both fonts. */
export function FontComparison({ before, after }: { before: FormSide; after: FormSide }) {
  const [typed, setTyped] = useState('');
  const text = useSettled(typed);
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      <TextField
        size="small"
        label="Text"
        placeholder="A sample of its letters"
        value={typed}
        onChange={(event) => setTyped(event.target.value.slice(0, 400))}
      />
      {[before, after].map(({ subject, label }) => (
        <Box key={subject}>
          <Box className="dim" sx={{ mb: 0.5 }}>
            {label}
          </Box>
          <FontLine subject={subject} text={text} size={48} />
        </Box>
      ))}
    </Box>
  );
}
