import Button from '@mui/material/Button';
import Link from 'next/link';
import type { ArchiveAnswer } from '../../server/shapes';
import { Empty } from '../shared/states';

/** In place of Find while no archive of the game is open. */
export function NothingYet({ gameId, archives }: { gameId: number; archives: readonly ArchiveAnswer[] }) {
  return (
    <Empty
      title="There is nothing to find yet"
      actions={
        <Button variant="contained" component={Link} href={`/games/${gameId}/open`}>
          Go to Open
        </Button>
      }
    >
      {archives.some((archive) => archive.state === 'locked')
        ? 'The archives are locked: they need a key.'
        : 'No archive is open.'}
    </Empty>
  );
}
