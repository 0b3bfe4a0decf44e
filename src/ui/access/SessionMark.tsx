'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { call } from '../shared/api';
import { useRole } from './session';

/** Ends the session and shows the sign-in page. */
export async function signOut(): Promise<void> {
  await call('DELETE session').catch(() => {});
  window.location.assign('/sign-in');
}

/** The role of the session and the sign-out button. Renders nothing when no sign-in is required. */
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
