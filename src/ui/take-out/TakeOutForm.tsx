'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { ClashesAnswer } from '../../server/shapes';
import { zipAddress } from '../runs/zip-address';
import { type BodyOf, call } from '../shared/api';
import { TRAY_VIEWS, type TrayChoices } from '../forms';
import { Chip } from '../shared/Chip';
import { ChoiceRow } from '../shared/ChoiceRow';
import { FolderDialog } from '../shared/FolderDialog';
import { useGameMutation, useGame, usePlaces } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { ExistingDialog } from './ExistingDialog';

/** What of an order is chosen here; where it goes is asked for each game. */
type TakeOutBody = BodyOf<'POST games/{game}/take-out'>;

export const AT_FIRST: TrayChoices = Object.assign(
  { form: 'open', layout: 'folders', onlyChanged: true },
  ...TRAY_VIEWS.map(({ atFirst }) => atFirst),
);
const LAYOUTS = { folders: 'Keep folders', flat: 'Flat', labels: 'By label' } as const;
/** How what is in the tray goes out, and where to. */
export function TakeOutForm({
  gameId,
  empty,
  chosen,
  choose,
}: {
  gameId: number;
  empty: boolean;
  chosen: TrayChoices;
  choose: (part: Partial<TrayChoices>) => void;
}) {
  const { data: game } = useGame(gameId);
  const { data: places } = usePlaces('');
  const [typed, setTyped] = useState<string>();
  const [choosing, setChoosing] = useState(false);
  const take = useGameMutation(
    gameId,
    (order: TakeOutBody) => call('POST games/{game}/take-out', { game: gameId, body: order }),
    {
      showsFault: true,
    },
  );
  const look = useGameMutation(
    gameId,
    (order: TakeOutBody) => call('POST games/{game}/take-out/clashes', { game: gameId, body: order }),
    { showsFault: true },
  );
  const [clashes, setClashes] = useState<ClashesAnswer>();
  const to =
    typed ??
    (places === undefined || game === undefined ? '' : `${places.out}/${game.name.toLowerCase().replaceAll(' ', '-')}`);
  const { form, layout, onlyChanged } = chosen;
  const turned = form === 'open';
  return (
    <>
      <Typography variant="h2" sx={{ mb: 1.5 }}>
        How they go out
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '84px 1fr', rowGap: 1.25, alignItems: 'start', mb: 2.5 }}>
        <ChoiceRow title="Bytes">
          <Chip on={turned} onClick={() => choose({ form: 'open' })}>
            unpacked
          </Chip>
          <Chip on={!turned} onClick={() => choose({ form: 'stored' })}>
            as stored
          </Chip>
        </ChoiceRow>
        {TRAY_VIEWS.map(({ Row }, i) => (
          <Row key={i} gameId={gameId} chosen={chosen} choose={choose} />
        ))}
        <ChoiceRow title="Paths">
          {(Object.keys(LAYOUTS) as (keyof typeof LAYOUTS)[]).map((one) => (
            <Chip key={one} on={layout === one} onClick={() => choose({ layout: one })}>
              {LAYOUTS[one]}
            </Chip>
          ))}
        </ChoiceRow>
        <ChoiceRow title="Skip">
          <Chip on={onlyChanged} onClick={() => choose({ onlyChanged: !onlyChanged })}>
            what has not changed since last time
          </Chip>
        </ChoiceRow>
      </Box>
      <Part title="Where to">
        <Box sx={{ display: 'flex', gap: 1 }}>
          <TextField
            fullWidth
            value={to}
            onChange={(event) => setTyped(event.target.value)}
            slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Where to' } }}
          />
          <Button onClick={() => setChoosing(true)}>Choose…</Button>
        </Box>
        <Box sx={{ display: 'flex', gap: 2, mt: 1.25, alignItems: 'center' }}>
          <Button
            variant="contained"
            disabled={empty || to === '' || take.isPending || look.isPending}
            onClick={() =>
              look.mutate(orderOf(chosen, to), {
                onSuccess: (found) => (found.count > 0 ? setClashes(found) : take.mutate(orderOf(chosen, to))),
              })
            }
          >
            Take out
          </Button>
          <Button
            variant="text"
            disabled={empty || take.isPending}
            onClick={() =>
              take.mutate(orderOf(chosen, null), { onSuccess: ({ id }) => downloadOf(zipAddress(gameId, id)) })
            }
          >
            Download as one ZIP
          </Button>
        </Box>
        {(look.error ?? take.error) !== null && (
          <Box sx={{ mt: 1 }}>
            <FaultNote>{(look.error ?? take.error)!.message}</FaultNote>
          </Box>
        )}
      </Part>
      <ExistingDialog
        clashes={clashes}
        onClose={() => setClashes(undefined)}
        onChoose={(choice) => {
          setClashes(undefined);
          take.mutate({ ...orderOf(chosen, to), ...choice });
        }}
      />
      <FolderDialog
        open={choosing}
        title="Where should they go?"
        verb="Into this folder"
        onClose={() => setChoosing(false)}
        onChoose={(folder) => {
          setTyped(folder);
          setChoosing(false);
        }}
      />
    </>
  );
}

/** What does not go with what was chosen is left out. */
function orderOf(chosen: TrayChoices, to: string | null): TakeOutBody {
  const { form, layout, onlyChanged } = chosen;
  const plain = { to, form, layout, onlyChanged };
  return form === 'stored' ? plain : Object.assign(plain, ...TRAY_VIEWS.map((tray) => tray.order(chosen)));
}

/** Begins at once: the file comes while the run makes it. */
function downloadOf(address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = '';
  link.click();
}
