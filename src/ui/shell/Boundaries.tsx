'use client';
/** What represents a page that broke, that is not there, or that is on its way. */
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Skeleton from '@mui/material/Skeleton';
import { useRouter } from 'next/navigation';
import { Empty } from '../shared/states';

/**
 * A part of a page threw while it was drawn. Nothing on the server is touched by that.
 *
 * @param retry draws it again
 */
export function BrokenPage({ error, retry }: { error: Error; retry: () => void }) {
  const router = useRouter();
  return (
    <Empty
      title="This page could not be shown"
      actions={
        <>
          <Button variant="contained" onClick={retry}>
            Try again
          </Button>
          <Button onClick={() => router.push('/')}>All games</Button>
        </>
      }
    >
      This is a fault of Zero Latch. Your changes, your game and runs that are going on are not affected.
      <Box className="mono" role="alert" sx={{ mt: 1.5, overflowWrap: 'anywhere' }}>
        {error.message}
      </Box>
    </Empty>
  );
}

export function MissingPage() {
  const router = useRouter();
  return (
    <Empty
      title="There is no such page"
      actions={
        <Button variant="contained" onClick={() => router.push('/')}>
          All games
        </Button>
      }
    >
      The address may be mistyped, or the game may have been removed.
    </Empty>
  );
}

/** The outline of a station: what it is made of is on its way. */
export function PageOnItsWay() {
  return (
    <Box role="status" aria-label="Loading" sx={{ p: 2.25, display: 'grid', gap: 1.25, alignContent: 'start' }}>
      <Skeleton variant="rounded" width={220} height={28} />
      <Skeleton variant="rounded" height={40} />
      <Skeleton variant="rounded" height={220} />
    </Box>
  );
}
