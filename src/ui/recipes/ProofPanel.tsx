'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import type { CheckAnswer, HintsAnswer, PlacedFault, TryAnswer } from '../../server/shapes';
import { count, counted } from '../shared/format';
import { Part } from '../shared/states';
import { Item, Judged } from './Judged';

type Hints = HintsAnswer['hints'];

type Proven = NonNullable<TryAnswer['proof']>;

interface Props {
  readonly fileName: string;
  readonly check: CheckAnswer | undefined;
  readonly answer: TryAnswer | undefined;
  readonly isTrying: boolean;
  readonly error: Error | null;
  readonly hints: HintsAnswer | undefined;
  readonly actions: ReactNode;
  readonly onPlace: (fault: PlacedFault) => void;
  readonly onByte: (at: number) => void;
  readonly onInsert: (lines: Hints[number]['lines']) => void;
}

/** Does it hold? The parts of the proof with their first failures, and what the file gives away. */
export function ProofPanel(props: Props) {
  const { hints, actions } = props;
  return (
    <Box component="aside" aria-label="Proof and hints" sx={{ width: 300, flex: 'none', p: 1.75, overflow: 'auto', background: 'var(--sheet)' }}>
      <Typography variant="h1" sx={{ mb: 1, fontSize: 15 }}>
        Does it hold?
      </Typography>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', mb: 1.5 }} aria-live="polite">
        <Verdict {...props} />
      </Box>
      <Stack direction="row" sx={{ flexWrap: 'wrap', gap: 1, mb: 2.5 }}>
        {actions}
      </Stack>
      <Part title="Hints for this file">
        {hints === undefined ? (
          <span className="dim">looking …</span>
        ) : hints.hints.length === 0 ? (
          <span className="dim">none: it may be locked as a whole</span>
        ) : (
          hints.hints.map((hint, i) => (
            <Box key={i} sx={{ mb: 1.25 }}>
              <Box
                component="button"
                type="button"
                onClick={() => props.onByte(hint.at)}
                sx={{ all: 'unset', cursor: 'pointer', '&:focus-visible': { outline: '2px solid var(--teal)' } }}
              >
                {hint.what}
              </Box>
              {hint.lines.length > 0 && (
                <Button variant="text" sx={{ px: 0, py: 0, minWidth: 0, minHeight: 24, display: 'block' }} onClick={() => props.onInsert(hint.lines)}>
                  Write {counted(hint.lines.length, 'line')}
                </Button>
              )}
            </Box>
          ))
        )}
      </Part>
    </Box>
  );
}

function Verdict({ fileName, check, answer, isTrying, error, onPlace }: Props) {
  if (check?.fault != null) return <Item tone="wrong" fault={check.fault} onPlace={onPlace} />;
  if (error !== null) return <Item tone="wrong">{error.message}</Item>;
  if (answer === undefined) return <Item tone="wait">{isTrying ? `reading ${fileName} …` : 'nothing tried yet'}</Item>;
  if (answer.fault !== null) return <Item tone="wrong" fault={answer.fault} onPlace={onPlace} />;
  const { proof, entries = 0, complaints = [] } = answer;
  return (
    <>
      <Item tone={entries > 0 ? 'holds' : 'wait'}>
        Reads {visible(fileName)}: {counted(entries, 'entry', 'entries')}
        {isTrying ? ' (reading again …)' : ''}
      </Item>
      {proof === null && (
        <Item tone="wait">
          The file is too large to be rebuilt while you write. From the command line: bin/zero-latch prove FILE --recipe FILE
        </Item>
      )}
      {proof != null && (
        <>
          <Judged
            holds={proof.bytes.explained === proof.bytes.total}
            good="Every byte explained"
            bad={`${count(proof.bytes.explained)} of ${count(proof.bytes.total)} bytes explained`}
            first={proof.bytes.first}
            onPlace={onPlace}
          />
          <Judged
            holds={proof.formulas.agree === proof.formulas.total}
            none={proof.formulas.total === 0 ? 'No computed fields yet' : undefined}
            good={`All ${counted(proof.formulas.total, 'computed field')} agree`}
            bad={`${count(proof.formulas.agree)} of ${counted(proof.formulas.total, 'computed field')} agree`}
            first={proof.formulas.first}
            onPlace={onPlace}
          />
          <Judged
            holds={proof.identical.same}
            good="Rebuilt without changes: identical"
            bad="Rebuilt without changes: differs"
            first={proof.identical.first}
            onPlace={onPlace}
          />
          <Judged
            holds={proof.changed.equal === proof.changed.tested}
            none={proof.changed.tested === 0 ? 'No entries to change yet' : undefined}
            good={`Rebuilt with ${counted(proof.changed.tested, 'entry', 'entries')} changed: all read back`}
            bad={`${count(proof.changed.equal)} of ${count(proof.changed.tested)} changed entries read back`}
            first={proof.changed.first}
            onPlace={onPlace}
          />
          <Edits edits={proof.edits} onPlace={onPlace} />
        </>
      )}
      {complaints.slice(0, 5).map((complaint, i) => (
        <Item key={i} tone="wrong" fault={complaint} onPlace={onPlace} />
      ))}
    </>
  );
}

/** What people do with an archive: how much of it is done and read back, and why the rest is not. */
function Edits({ edits, onPlace }: { edits: Proven['edits']; onPlace: (fault: PlacedFault) => void }) {
  const { done, total, holds, refused } = edits;
  if (total === 0) return <Item tone="wait">No entries to edit yet</Item>;
  return (
    <>
      <Item tone={holds ? 'holds' : 'wrong'}>
        {`${count(done)} of ${counted(total, 'edit')} done and read back`}
      </Item>
      {refused.map(({ what, layout, forbidden, fault }) => (
        <Item key={`${what} ${layout}`} tone={forbidden ? 'wait' : 'wrong'} fault={fault} onPlace={onPlace}>
          {`Cannot ${what} (${layout}), because: ${fault.sentence}`}
        </Item>
      ))}
    </>
  );
}
