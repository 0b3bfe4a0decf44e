'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useMutation } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { call } from '../shared/api';
import { FaultNote } from '../shared/states';

/** Asks for the passphrase of a server for several people. */
export function SignInPage() {
  const [passphrase, setPassphrase] = useState('');
  const sign = useMutation({
    mutationFn: () => call('POST session', { body: { passphrase } }),
    // The whole page again: it carries the token of the session.
    onSuccess: () => window.location.assign('/'),
    onError: () => setPassphrase(''),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    sign.mutate();
  };
  return (
    <Box component="main" sx={{ minHeight: '100vh', display: 'grid', placeItems: 'center', p: 2 }}>
      <Box component="form" onSubmit={submit} sx={{ width: 'min(360px, 100%)', display: 'grid', gap: 1.5 }}>
        <Typography variant="h1" sx={{ fontSize: 24 }}>
          Zero Latch
        </Typography>
        <Box className="dim">This server is shared. Its passphrase lets you in for twelve hours.</Box>
        <TextField
          type="password"
          label="Passphrase"
          value={passphrase}
          onChange={(event) => setPassphrase(event.target.value)}
          autoFocus
          autoComplete="current-password"
          fullWidth
        />
        {sign.error !== null && <FaultNote>{sign.error.message}</FaultNote>}
        <Button type="submit" variant="contained" disabled={passphrase === '' || sign.isPending || sign.isSuccess}>
          Sign in
        </Button>
      </Box>
    </Box>
  );
}
