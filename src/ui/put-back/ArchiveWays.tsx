import { sayFault } from '../../core/faults';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { BuildWays, How, WaysAnswer } from '../../server/shapes';
import { HOWS } from '../../server/shapes';
import { FaultNote, Part } from '../shared/states';
import { HOW_WORDS } from './how-words';
import { refusalsOf, suitingWays, wayOfArchive } from './suiting-ways';

interface Props {
  readonly answer: WaysAnswer;
  readonly chosen: BuildWays;
  readonly onChoose: (archives: BuildWays['archives']) => void;
}

/** Archives that are built in a way of their own, and those that have to be. */
export function ArchiveWays({ answer, chosen, onChoose }: Props) {
  const refusals = refusalsOf(answer, chosen);
  const choose = (archive: string, how: How | undefined) => {
    const { [archive]: _, ...others } = chosen.archives;
    onChoose(how === undefined ? others : { ...others, [archive]: how });
  };
  const own = answer.archives.filter((archive) => chosen.archives[archive] !== undefined);
  return (
    <>
      {refusals.map(({ archive, fault }) => (
        <FaultNote key={JSON.stringify([archive, fault])} tone="brass">
          {sayFault(fault)}
          <Box sx={{ display: 'flex', gap: 1, mt: 0.75, flexWrap: 'wrap' }}>
            {suitingWays(answer, archive)
              // The other layouts of a rebuilt archive are in the list below.
              .filter((how) => how === 'patch' || how === 'keep')
              .map((how) => (
                <Button key={how} onClick={() => choose(archive, how)}>
                  {how === 'patch' ? 'A small archive' : 'Rebuild'} for {visible(archive)}
                </Button>
              ))}
          </Box>
        </FaultNote>
      ))}
      {(answer.archives.length > 1 || own.length > 0) && (
        <Part title="Single archives">
          {answer.archives.map((archive) => {
            const suiting = suitingWays(answer, archive);
            return (
              <Box key={archive} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.4 }}>
                <Box className="mono" sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
                  {visible(archive)}
                </Box>
                <TextField
                  select
                  size="small"
                  value={chosen.archives[archive] ?? ''}
                  onChange={(event) => choose(archive, (event.target.value || undefined) as How | undefined)}
                  slotProps={{
                    select: {
                      displayEmpty: true,
                      SelectDisplayProps: { 'aria-label': `How ${archive} is built` },
                    },
                  }}
                  sx={{ width: 210, flex: 'none' }}
                  error={!suiting.includes(wayOfArchive(chosen, archive))}
                >
                  <MenuItem value="">as chosen above</MenuItem>
                  {HOWS.map((how) => (
                    <MenuItem key={how} value={how} disabled={!suiting.includes(how)}>
                      {HOW_WORDS[how]}
                    </MenuItem>
                  ))}
                </TextField>
              </Box>
            );
          })}
        </Part>
      )}
    </>
  );
}
