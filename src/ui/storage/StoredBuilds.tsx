import { visible } from '../../core/faults/visible';
import Button from '@mui/material/Button';
import Table from '@mui/material/Table';
import TableBody from '@mui/material/TableBody';
import TableCell from '@mui/material/TableCell';
import TableHead from '@mui/material/TableHead';
import TableRow from '@mui/material/TableRow';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { HomeBuild } from '../../server/shapes';
import { ApiFault, call } from '../shared/api';
import { size, when } from '../shared/format';
import { useNotice } from '../shared/notices';

/** Builds of all games, each with what it would free. One that is in its game stays. */
export function StoredBuilds({ builds, onDeleted }: { builds: readonly HomeBuild[]; onDeleted: () => void }) {
  const [gone, setGone] = useState<ReadonlySet<number>>(new Set());
  const client = useQueryClient();
  const say = useNotice();
  const [sure, setSure] = useState<number>();
  const remove = useMutation({
    mutationFn: ({ game, id }: HomeBuild) => call('DELETE games/{game}/builds/{build}', { game: game.id, build: id }),
    onError: (error) => say({ tone: 'error', text: error instanceof ApiFault ? error.message : String(error) }),
    onSuccess: (_data, { id }) => {
      // The sizes of the others are added up again; the row goes at once.
      setGone((before) => new Set([...before, id]));
      onDeleted();
    },
    onSettled: (_data, _error, { game }) => {
      setSure(undefined);
      void client.invalidateQueries({ queryKey: ['game', game.id] });
    },
  });
  return (
    <Table size="small">
      <TableHead>
        <TableRow>
          <TableCell>Build</TableCell>
          <TableCell>Made</TableCell>
          <TableCell align="right">Size</TableCell>
          <TableCell align="right">Only in it</TableCell>
          <TableCell />
        </TableRow>
      </TableHead>
      <TableBody>
        {builds
          .filter(({ id }) => !gone.has(id))
          .map((build) => (
            <TableRow key={build.id} data-testid={`build ${build.number} of ${build.game.name}`}>
              <TableCell sx={{ overflowWrap: 'anywhere' }}>
                <b>{visible(build.game.name)}</b> #{build.number}
              </TableCell>
              <TableCell sx={{ whiteSpace: 'nowrap' }}>{when(build.createdAt)}</TableCell>
              <TableCell align="right">{size(build.bytes)}</TableCell>
              <TableCell align="right">{size(build.frees)}</TableCell>
              <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
                {build.isIn ? (
                  <span className="dim">in the game</span>
                ) : sure === build.id ? (
                  <>
                    <Button variant="text" onClick={() => setSure(undefined)}>
                      Keep
                    </Button>
                    <Button color="error" disabled={remove.isPending} onClick={() => remove.mutate(build)}>
                      Delete
                    </Button>
                  </>
                ) : (
                  <Button variant="text" onClick={() => setSure(build.id)}>
                    Delete…
                  </Button>
                )}
              </TableCell>
            </TableRow>
          ))}
      </TableBody>
    </Table>
  );
}
