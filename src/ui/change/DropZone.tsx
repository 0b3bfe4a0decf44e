'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useRef } from 'react';
import { useDropzone } from 'react-dropzone';
import { RunLine } from '../runs/RunLine';
import type { RunResult } from '../../server/shapes';
import { resultOf } from '../runs/run-result';
import { count } from '../shared/format';
import { isGoing } from '../shared/queries';
import { FaultNote } from '../shared/states';
import type { BringIn } from './use-bring-in';

/** Where edited files are dropped, one or a folder of them, and how far they have come. */
export function DropZone({ bringIn }: { bringIn: BringIn }) {
  const { bring, sending, refused, run } = bringIn;
  const result = resultOf(run, 'bring-in');
  const folder = useRef<HTMLInputElement>(null);
  const take = (files: readonly File[]) => void bring(files.map((file) => ({ file })));
  const { getRootProps, getInputProps, isDragActive } = useDropzone({ onDrop: take, disabled: sending !== undefined });
  return (
    <>
      <Box
        {...getRootProps()}
        sx={{
          border: '2px dashed',
          borderColor: isDragActive ? 'var(--teal)' : 'var(--line)',
          borderRadius: 1,
          p: 1.75,
          textAlign: 'center',
          cursor: 'pointer',
          background: isDragActive ? 'var(--teal2)' : undefined,
          '&:focus-visible': { outline: '2px solid var(--teal)', outlineOffset: 2 },
        }}
        className="dim"
      >
        <input {...getInputProps()} aria-label="Edited files" data-testid="drop-files" />
        Drop edited files or a folder here, or click to choose files. They find their places by path, name, label or
        number.
      </Box>
      <Button variant="text" sx={{ p: 0, mt: 0.5, minWidth: 0 }} onClick={() => folder.current?.click()}>
        Choose a folder…
      </Button>
      <input
        ref={folder}
        type="file"
        hidden
        multiple
        // Not among the attributes the types know.
        {...{ webkitdirectory: '' }}
        aria-label="A folder of edited files"
        data-testid="drop-folder"
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
          event.target.value = '';
        }}
      />
      {sending !== undefined && (
        <Box sx={{ mt: 1 }} role="status">
          Sending {count(sending.sent)} of {count(sending.total)}
          <LinearProgress
            aria-label="Sending the files"
            variant="determinate"
            value={(100 * sending.sent) / sending.total}
            sx={{ height: 4, borderRadius: 2 }}
          />
        </Box>
      )}
      {run !== undefined && isGoing(run) && (
        <Box sx={{ mt: 1 }}>
          <RunLine run={run} label="Importing the files">
            {run.total > 1 && `${count(run.done)} of ${count(run.total)} files`}
          </RunLine>
        </Box>
      )}
      {result !== undefined && result.taken + result.same > 1 && (
        <Box sx={{ mt: 1 }} role="status">
          {sumUp(result)}
        </Box>
      )}
      {refused.slice(0, 5).map((why) => (
        <Box key={why} sx={{ mt: 1 }}>
          <FaultNote>{why}</FaultNote>
        </Box>
      ))}
      {run?.fault != null && (
        <Box sx={{ mt: 1 }}>
          <FaultNote>{run.fault.sentence}</FaultNote>
        </Box>
      )}
    </>
  );
}

/** `10 taken, 90 the same as in the game, 2 need you.` */
function sumUp({ taken, same, left }: RunResult<'bring-in'>): string {
  const parts = [
    `${count(taken)} taken`,
    ...(same > 0 ? [`${count(same)} the same as in the game`] : []),
    ...(left > 0 ? [`${count(left)} ${left === 1 ? 'needs' : 'need'} a decision`] : []),
  ];
  return `${parts.join(', ')}.`;
}
