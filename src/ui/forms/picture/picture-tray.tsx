'use client';
import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../../shared/api';
import { Chip } from '../../shared/Chip';
import { counted } from '../../shared/format';
import { FormatRow } from '../FormatRow';
import { isNamedAs, type TrayChoices, type TrayRowProps, type TrayView } from '../tray-view';

const FORMATS = { png: 'PNG', tga: 'TGA', dds: 'DDS', ktx2: 'KTX2' } as const;
const MIPS = { 0: 'the largest mip', 1: 'a half', 2: 'a quarter', 3: 'an eighth' } as const;

/** Formats that keep pixels, and not as they are packed. */
const isPlain = (as: TrayChoices['pictures']): boolean => as === 'png' || as === 'tga';

export const pictureTray: TrayView = {
  Row,
  atFirst: { pictures: 'png', mip: 0, split: null },
  order: ({ pictures, mip, split }) => ({ mip, ...(pictures && { pictures }), ...(split && { split }) }),
  goesOutAs(entry, { pictures, split, mip }) {
    if (pictures === null) return undefined;
    if (split !== null && isPlain(pictures)) return counted(split.split(';').length, FORMATS[pictures]);
    return isNamedAs(entry, pictures) && mip === 0 ? undefined : FORMATS[pictures];
  },
  within: ({ path }, { pictures }, { parts }) => (pictures !== null && parts.has(path) ? 'in its picture' : undefined),
};

function Row({ gameId, chosen, choose }: TrayRowProps) {
  const { form, pictures } = chosen;
  const isOpen = form === 'open';
  return (
    <FormatRow
      kind="picture"
      title="Pictures"
      formats={FORMATS}
      value={isOpen ? pictures : undefined}
      onChange={(next) => choose({ form: 'open', pictures: next })}
    >
      {isOpen && isPlain(pictures) && <PictureChoices gameId={gameId} chosen={chosen} choose={choose} />}
    </FormatRow>
  );
}

/** Which mip, and whether the channels go out in pictures of their own. */
function PictureChoices({
  gameId,
  chosen: { mip, split },
  choose,
}: {
  gameId: number;
  chosen: TrayChoices;
  choose: (part: Partial<TrayChoices>) => void;
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
