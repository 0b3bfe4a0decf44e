'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { api } from '../shared/api';
import { useRole } from './session';

/** Leaves the server. The page that asks for the passphrase follows. */
export async function signOut(): Promise<void> {
  await api('session', { method: 'DELETE' }).catch(() => {});
  window.location.assign('/sign-in');
}

/** Who is signed in, and the way out; nothing where nobody has to sign in. */
export function SessionMark() {
  const role = useRole();
  if (role === undefined) return null;
  return (
    <Box component="span" sx={{ display: 'inline-flex', alignItems: 'center', gap: 1 }}>
      {role === 'look' && (
        <Box component="span" sx={{ px: 1, border: '1px solid var(--brass-mark)', borderRadius: 7, fontSize: 12 }}>
          looking only
        </Box>
      )}
      <Button variant="text" sx={{ px: 0.75, minWidth: 0 }} onClick={() => void signOut()}>
        Sign out
      </Button>
    </Box>
  );
}
