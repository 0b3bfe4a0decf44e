'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState, type ReactNode } from 'react';
import { FONT_OUT, type FontOut } from '../../core/forms/font/out-formats';
import { MESH_OUT, type MeshOut } from '../../core/forms/mesh/out-formats';
import { PICTURE_OUT, type PictureOut } from '../../core/forms/picture/out-formats';
import { SOUND_OUT, type SoundOut } from '../../core/forms/sound/out-formats';
import type { ClashesAnswer, TakeOutOrder } from '../../server/shapes';
import { zipAddress } from '../runs/zip-address';
import { type BodyOf, call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { FolderDialog } from '../shared/FolderDialog';
import { KindMark } from '../shared/marks';
import { useGameMutation, useGame, usePlaces } from '../shared/queries';
import { FaultNote, Part } from '../shared/states';
import { ExistingDialog } from './ExistingDialog';

/** What of an order is chosen here; where it goes is asked for each game. */
type TakeOutBody = BodyOf<'POST games/{game}/take-out'>;

export type Choices = Pick<
  TakeOutOrder,
  'form' | 'layout' | 'mip' | 'trim' | 'join' | 'onlyChanged' | 'clips' | 'levels' | 'scale' | 'solid'
> & {
  /** Null for as they are: what is kept in the browser knows no `undefined`. */
  readonly pictures: PictureOut | null;
  readonly sounds: SoundOut | null;
  readonly meshes: MeshOut | null;
  readonly films: 'mp4' | 'webm' | null;
  readonly fonts: FontOut | null;
  readonly split: string | null;
};

export const AT_FIRST: Choices = {
  ...{ form: 'open', layout: 'folders', pictures: 'png', sounds: 'wav' },
  ...{ fonts: null, films: 'mp4', meshes: 'glb', clips: 'all', levels: false, scale: 1000, solid: false },
  ...{ mip: 0, split: null, trim: false, join: false, onlyChanged: true },
};
const LAYOUTS = { folders: 'Keep folders', flat: 'Flat', labels: 'By label' } as const;
const MIPS = { 0: 'the largest mip', 1: 'a half', 2: 'a quarter', 3: 'an eighth' } as const;

/** How what is in the tray goes out, and where to. */
export function TakeOutForm({
  gameId,
  empty,
  chosen,
  choose,
}: {
  gameId: number;
  empty: boolean;
  chosen: Choices;
  choose: (part: Partial<Choices>) => void;
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
  const { form, layout, pictures, sounds, meshes, films, fonts, trim, join, onlyChanged } = chosen;
  const turned = form === 'open';
  return (
    <>
      <Typography variant="h2" sx={{ mb: 1.5 }}>
        How they go out
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '84px 1fr', rowGap: 1.25, alignItems: 'start', mb: 2.5 }}>
        <Row title="Bytes">
          <Chip on={turned} onClick={() => choose({ form: 'open' })}>
            unpacked
          </Chip>
          <Chip on={!turned} onClick={() => choose({ form: 'stored' })}>
            as stored
          </Chip>
        </Row>
        <Row
          title={
            <>
              <KindMark kind="picture" /> Pictures
            </>
          }
        >
          {([...PICTURE_OUT, null] as const).map((one) => (
            <Chip
              key={one ?? 'same'}
              on={turned && pictures === one}
              onClick={() => choose({ form: 'open', pictures: one })}
              label={one === null ? 'Pictures as they are' : `Pictures as ${one.toUpperCase()}`}
            >
              {one === null ? 'as they are' : one.toUpperCase()}
            </Chip>
          ))}
          {turned && (pictures === 'png' || pictures === 'tga') && (
            <PictureChoices gameId={gameId} chosen={chosen} choose={choose} />
          )}
        </Row>
        <Row
          title={
            <>
              <KindMark kind="sound" /> Sounds
            </>
          }
        >
          {([...SOUND_OUT, null] as const).map((one) => (
            <Chip
              key={one ?? 'same'}
              on={turned && sounds === one && !join}
              onClick={() => choose({ form: 'open', sounds: one, join: false })}
              label={one === null ? 'Sounds as they are' : `Sounds as ${one.toUpperCase()}`}
            >
              {one === null ? 'as they are' : one.toUpperCase()}
            </Chip>
          ))}
          <Chip on={turned && join} onClick={() => choose({ form: 'open', join: !join, sounds: sounds ?? 'wav' })}>
            all in one, with a cue sheet
          </Chip>
          {turned && sounds !== null && (
            <Chip on={trim} onClick={() => choose({ trim: !trim })}>
              without silence at the ends
            </Chip>
          )}
        </Row>
        <Row
          title={
            <>
              <KindMark kind="mesh" /> Meshes
            </>
          }
        >
          {([...MESH_OUT, null] as const).map((one) => (
            <Chip
              key={one ?? 'same'}
              on={turned && meshes === one}
              onClick={() => choose({ form: 'open', meshes: one })}
              label={one === null ? 'Meshes as they are' : `Meshes as ${MESH_WORDS[one]}`}
            >
              {one === null ? 'as they are' : MESH_WORDS[one]}
            </Chip>
          ))}
          {turned && meshes !== null && <MeshChoices chosen={chosen} choose={choose} />}
        </Row>
        <Row
          title={
            <>
              <KindMark kind="film" /> Films
            </>
          }
        >
          {(['mp4', 'webm', null] as const).map((one) => (
            <Chip
              key={one ?? 'same'}
              on={turned && films === one}
              onClick={() => choose({ form: 'open', films: one })}
              label={one === null ? 'Films as they are' : `Films as ${FILM_WORDS[one]}`}
            >
              {one === null ? 'as they are' : FILM_WORDS[one]}
            </Chip>
          ))}
        </Row>
        <Row
          title={
            <>
              <KindMark kind="font" /> Fonts
            </>
          }
        >
          {([...FONT_OUT, null] as const).map((one) => (
            <Chip
              key={one ?? 'same'}
              on={turned && fonts === one}
              onClick={() => choose({ form: 'open', fonts: one })}
              label={one === null ? 'Fonts as they are' : `Fonts as ${one.toUpperCase()}`}
            >
              {one === null ? 'as they are' : one.toUpperCase()}
            </Chip>
          ))}
        </Row>
        <Row title="Paths">
          {(Object.keys(LAYOUTS) as (keyof typeof LAYOUTS)[]).map((one) => (
            <Chip key={one} on={layout === one} onClick={() => choose({ layout: one })}>
              {LAYOUTS[one]}
            </Chip>
          ))}
        </Row>
        <Row title="Skip">
          <Chip on={onlyChanged} onClick={() => choose({ onlyChanged: !onlyChanged })}>
            what has not changed since last time
          </Chip>
        </Row>
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

function Row({ title, children }: { title: ReactNode; children: ReactNode }) {
  return (
    <>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', minHeight: 26 }}>{title}</Box>
      <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>{children}</Box>
    </>
  );
}

const FILM_WORDS = { mp4: 'MP4', webm: 'WebM' } as const;
const MESH_WORDS = { glb: 'glTF', obj: 'OBJ', stl: 'STL' } as const;
const CLIPS = {
  all: 'with the clips that move it',
  taken: 'with the clips in the tray',
  none: 'without clips',
} as const;
/** Units of STL files, by how many make a metre. */
const SCALES = { 1000: 'in millimetres', 100: 'in centimetres', 1: 'in metres' } as const;

/** What changes with it with a mesh, and how large it is where a file does not say. */
function MeshChoices({ chosen, choose }: { chosen: Choices; choose: (part: Partial<Choices>) => void }) {
  const { meshes, clips, levels, scale, solid } = chosen;
  if (meshes === 'obj') return null;
  return (
    <Box sx={{ width: '100%', display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
      {meshes === 'glb' ? (
        <>
          <TextField
            select
            size="small"
            value={clips}
            onChange={(event) => choose({ clips: event.target.value as Choices['clips'] })}
            slotProps={{ htmlInput: { 'aria-label': 'Which clips go along' } }}
          >
            {Object.entries(CLIPS).map(([value, words]) => (
              <MenuItem key={value} value={value}>
                {words}
              </MenuItem>
            ))}
          </TextField>
          <Chip on={levels} onClick={() => choose({ levels: !levels })}>
            all levels of detail
          </Chip>
        </>
      ) : (
        <>
          <TextField
            select
            size="small"
            value={scale in SCALES ? scale : 1000}
            onChange={(event) => choose({ scale: Number(event.target.value) })}
            slotProps={{ htmlInput: { 'aria-label': 'Units of the file' } }}
          >
            {Object.entries(SCALES).map(([value, words]) => (
              <MenuItem key={value} value={Number(value)}>
                {words}
              </MenuItem>
            ))}
          </TextField>
          <Chip on={solid} onClick={() => choose({ solid: !solid })}>
            shells united into one solid
          </Chip>
        </>
      )}
    </Box>
  );
}

/** Which mip, and whether the channels go out in pictures of their own. */
function PictureChoices({
  gameId,
  chosen: { mip, split },
  choose,
}: {
  gameId: number;
  chosen: Choices;
  choose: (part: Partial<Choices>) => void;
}) {
  const { data: rules = [] } = useQuery({
    queryKey: ['game', gameId, 'splits'],
    queryFn: () => call('GET games/{game}/splits', { game: gameId }),
  });
  const [typed, setTyped] = useState<string>();
  return (
    <Box sx={{ width: '100%', display: 'grid', gap: 0.75 }}>
      <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
        <TextField
          select
          size="small"
          value={mip in MIPS ? mip : 0}
          onChange={(event) => choose({ mip: Number(event.target.value) })}
          slotProps={{ htmlInput: { 'aria-label': 'Which mip' } }}
        >
          {Object.entries(MIPS).map(([value, words]) => (
            <MenuItem key={value} value={Number(value)}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        <Chip on={split === null} onClick={() => choose({ split: null })}>
          channels together
        </Chip>
        <Chip on={split !== null} onClick={() => choose({ split: split ?? rules[0] ?? null })}>
          channels apart
        </Chip>
      </Box>
      {split !== null && (
        <>
          <TextField
            fullWidth
            size="small"
            value={typed ?? split}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={() => typed !== undefined && choose({ split: typed })}
            slotProps={{ htmlInput: { className: 'mono', 'aria-label': 'Which channels go into which picture' } }}
          />
          <Box className="dim">
            What is added to the name, then its channels; “-” inverts one: <code>_normal: rgb; _rough: -a</code>. Files
            of these names are joined again when they come back.
          </Box>
          <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
            {rules
              .filter((rule) => rule !== (typed ?? split))
              .slice(0, 4)
              .map((rule) => (
                <Chip
                  key={rule}
                  on={false}
                  onClick={() => {
                    setTyped(undefined);
                    choose({ split: rule });
                  }}
                >
                  <span className="mono">{rule}</span>
                </Chip>
              ))}
          </Box>
        </>
      )}
    </Box>
  );
}

/** What does not go with what was chosen is left out. */
function orderOf(chosen: Choices, to: string | null): TakeOutBody {
  const { form, layout, pictures, sounds, mip, split, trim, join, onlyChanged } = chosen;
  if (form === 'stored') return { to, form, layout, onlyChanged };
  return {
    ...{ to, form, layout, onlyChanged, mip, join, trim: sounds !== null && trim },
    ...(pictures && { pictures }),
    ...(sounds && { sounds }),
    ...meshesOf(chosen),
    ...(chosen.films && { films: chosen.films }),
    ...(chosen.fonts && { fonts: chosen.fonts }),
    ...(split && { split }),
  };
}

const meshesOf = ({ meshes, clips, levels, scale, solid }: Choices) =>
  meshes === null ? {} : { meshes, clips, levels, scale, solid };

/** Begins at once: the file comes while the run makes it. */
function downloadOf(address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = '';
  link.click();
}
