'use client';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { Chip } from '../../shared/Chip';
import { FormatRow } from '../FormatRow';
import { isNamedAs, type TrayChoices, type TrayRowProps, type TrayView } from '../tray-view';

const FORMATS = { glb: 'glTF', obj: 'OBJ', stl: 'STL' } as const;

export const meshTray: TrayView = {
  Row,
  atFirst: { meshes: 'glb', clips: 'all', levels: false, scale: 1000, solid: false },
  order: ({ meshes, clips, levels, scale, solid }) => (meshes === null ? {} : { meshes, clips, levels, scale, solid }),
  goesOutAs(entry, { meshes }, { clips }) {
    const isClip = clips.has(entry.path);
    if (meshes === null || isNamedAs(entry, meshes)) return undefined;
    if (!isClip) return FORMATS[meshes];
    return meshes === 'glb' ? 'glTF, with its mesh' : undefined;
  },
};

function Row({ chosen, choose }: TrayRowProps) {
  const { form, meshes } = chosen;
  const isOpen = form === 'open';
  return (
    <FormatRow
      kind="mesh"
      title="Meshes"
      formats={FORMATS}
      value={isOpen ? meshes : undefined}
      onChange={(next) => choose({ form: 'open', meshes: next })}
    >
      {isOpen && meshes !== null && <MeshChoices chosen={chosen} choose={choose} />}
    </FormatRow>
  );
}

const CLIPS = {
  all: 'with the clips that move it',
  taken: 'with the clips in the tray',
  none: 'without clips',
} as const;
/** Units of STL files, by how many make a metre. */
const SCALES = { 1000: 'in millimetres', 100: 'in centimetres', 1: 'in metres' } as const;

/** What changes with it with a mesh, and how large it is where a file does not say. */
function MeshChoices({ chosen, choose }: { chosen: TrayChoices; choose: (part: Partial<TrayChoices>) => void }) {
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
            onChange={(event) => choose({ clips: event.target.value as TrayChoices['clips'] })}
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
