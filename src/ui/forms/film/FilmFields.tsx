'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import type { FilmChoices, FilmOptions } from '../../../server/shapes';
import { Chip } from '../../shared/Chip';
import { size } from '../../shared/format';
import { Part } from '../../shared/states';

const QUALITIES = { fine: 'finer', even: 'like the original', small: 'smaller' } as const;
const PRESETS = { veryfast: 'fast', medium: 'usual', slow: 'careful' } as const;

/** ffmpeg's names of the codecs that have presets. */
const H264 = 'h264';

interface Props {
  /** What each quality comes to; none where the game keeps pictures without loss. */
  readonly sizes: FilmChoices['sizes'] | null;
  readonly codec: string | undefined;
  readonly rate: number;
  readonly sound: boolean;
  readonly fitOptions: FilmOptions;
  readonly go: { readonly label: string; readonly busy: boolean; readonly onGo: (fitOptions: FilmOptions) => void };
}

/** How a film is converted, with what each choice comes to. */
export function FilmFields({ sizes, codec, rate, sound, fitOptions: given, go }: Props) {
  const [fitOptions, setFitOptions] = useState(given);
  const { quality = 'even', megabytes, only } = fitOptions;
  const set = (next: Partial<FilmOptions>, without: readonly (keyof FilmOptions)[] = []) =>
    setFitOptions((now) =>
      Object.fromEntries(
        Object.entries({ ...now, ...next }).filter(
          ([key, value]) => value !== undefined && !without.includes(key as keyof FilmOptions),
        ),
      ),
    );
  const number = (
    label: string,
    key: 'megabytes' | 'keyframes' | 'gain',
    hint: string,
    [min, max]: [number, number],
  ) => (
    <TextField
      size="small"
      type="number"
      label={label}
      placeholder={hint}
      value={fitOptions[key] ?? ''}
      onChange={(event) => set({ [key]: event.target.value === '' ? undefined : Number(event.target.value) })}
      slotProps={{ htmlInput: { min, max, step: 'any' }, inputLabel: { shrink: true } }}
      sx={{ width: 130 }}
    />
  );
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        go.onGo(fitOptions);
      }}
    >
      {sound && (
        <Part title="Taken from your film">
          <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
            {([undefined, 'pictures', 'sound'] as const).map((one) => (
              <Chip key={one ?? 'all'} on={only === one} onClick={() => set({ only: one })}>
                {one === undefined ? 'all it brings' : `${one} alone`}
              </Chip>
            ))}
          </Box>
        </Part>
      )}
      {sizes !== null && only !== 'sound' && (
        <Part title="Quality">
          <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', mb: 2 }}>
            {(Object.keys(QUALITIES) as (keyof typeof QUALITIES)[]).map((one) => (
              <Chip
                key={one}
                on={megabytes === undefined && quality === one}
                onClick={() => set({ quality: one }, ['megabytes'])}
              >
                {QUALITIES[one]}, about {size(sizes[one])}
              </Chip>
            ))}
          </Box>
          <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', rowGap: 1.25 }}>
            {number('Target size (MB)', 'megabytes', 'free', [0.05, 100_000])}
            {number('Keyframe every', 'keyframes', String(Math.max(1, Math.round(rate * 2))), [1, 1000])}
            {codec === H264 && (
              <TextField
                select
                size="small"
                label="Care"
                value={fitOptions.preset ?? 'medium'}
                onChange={(event) => set({ preset: event.target.value as keyof typeof PRESETS })}
                sx={{ width: 110 }}
              >
                {Object.entries(PRESETS).map(([preset, word]) => (
                  <MenuItem key={preset} value={preset}>
                    {word}
                  </MenuItem>
                ))}
              </TextField>
            )}
          </Box>
        </Part>
      )}
      {sound && only !== 'pictures' && (
        <Part title="Sound">
          <Box sx={{ pt: 0.75 }}>{number('Gain (dB)', 'gain', '0', [-40, 40])}</Box>
        </Part>
      )}
      <Button type="submit" variant="contained" disabled={go.busy} sx={{ mt: 1 }}>
        {go.label}
      </Button>
    </Box>
  );
}
