'use client';
import { sayFault } from '../../core/faults';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import NextLink from 'next/link';
import type { ChangeAnswer } from '../../server/shapes';
import { HOW_WORDS } from '../put-back/how-words';
import { refusedFor, suitingWays } from '../put-back/suiting-ways';
import { useEstimate } from '../put-back/use-estimate';
import { usePutBack } from '../shared/queries';
import { FaultNote } from '../shared/states';

/** Says which ways to build a change does not suit, and which it does, before anything is built. */
export function WaysOfChange({ gameId, change }: { gameId: number; change: ChangeAnswer }) {
  const { data: putBack } = usePutBack(gameId);
  useEstimate(gameId, !change.undone, putBack);
  const answer = putBack?.ways ?? null;
  if (answer === null || change.undone) return null;
  const refused = refusedFor(answer, change.path);
  const [first] = refused;
  if (first === undefined) return null;
  const archive = answer.ways.flatMap(({ refusals }) => refusals).find(({ entry }) => entry === change.path)!.archive;
  const suiting = suitingWays(answer, archive).map((how) => HOW_WORDS[how]);
  return (
    <FaultNote tone="brass">
      This change does not go in as {refused.map(({ how }) => HOW_WORDS[how]).join(', nor as ')}.{' '}
      {sayFault(first.fault)}
      <Box sx={{ mt: 0.5 }}>
        {suiting.length === 0 ? (
          'No other way is left for this archive.'
        ) : (
          <>
            It goes in as {suiting.join(', or as ')}.{' '}
            <Link component={NextLink} href={`/games/${gameId}/put-back`}>
              Choose how
            </Link>
          </>
        )}
      </Box>
    </FaultNote>
  );
}
