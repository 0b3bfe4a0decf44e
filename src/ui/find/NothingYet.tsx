import Button from '@mui/material/Button';
import Link from 'next/link';
import type { ArchiveAnswer } from '../../server/shapes';
import { Empty } from '../shared/states';

/** In place of Find while there are no entries: no archive is open, and no file is known by itself. */
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
        : 'No archive is open, and no file is of a kind that is known.'}
    </Empty>
  );
}
