'use client';
import Box from '@mui/material/Box';

export function Choice({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: string;
  options: readonly (readonly [value: string, words: string])[];
  onChange: (value: string) => void;
}) {
  return (
    <Box
      component="select"
      aria-label={label}
      value={value}
      onChange={(event: { target: { value: string } }) => onChange(event.target.value)}
      sx={{
        height: 26,
        border: '1px solid var(--line)',
        borderRadius: 7,
        px: 0.75,
        fontSize: 12,
        fontFamily: 'inherit',
        background: 'var(--sheet)',
        color: 'var(--ink)',
      }}
    >
      {options.map(([one, words]) => (
        <option key={one} value={one}>
          {words}
        </option>
      ))}
    </Box>
  );
}
