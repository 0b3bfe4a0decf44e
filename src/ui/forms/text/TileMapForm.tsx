'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { TileMapAnswer, TileMapEdit } from '../../../server/shapes';
import { type EntryAddress, call } from '../../shared/api';
import { FaultNote } from '../../shared/states';

const PLACES = {
  width: 'Tiles along x',
  height: 'Tiles along y',
  layers: 'List of layers',
  data: 'Tiles of a layer',
  name: 'Name of a layer',
} as const;

interface Props {
  readonly entry: EntryAddress;
  readonly url: string;
  readonly answer: TileMapAnswer;
  readonly onDone?: () => void;
}

/** Says how files like this one hold a map; kept in the profile of the game. */
export function TileMapForm({ entry, url, answer: { rule, guess, trouble }, onDone }: Props) {
  const first = rule ?? guess;
  const [places, setPlaces] = useState<Readonly<Record<keyof typeof PLACES, string>>>({
    width: first?.width ?? '',
    height: first?.height ?? '',
    layers: first?.layers ?? '',
    data: first?.data ?? '',
    name: first?.name ?? '',
  });
  const [picture, setPicture] = useState(rule?.tiles.picture ?? '');
  const [tile, setTile] = useState({
    width: String(rule?.tiles.width ?? 16),
    height: String(rule?.tiles.height ?? 16),
    first: String(rule?.tiles.first ?? 1),
  });
  const client = useQueryClient();
  const keep = useMutation({
    mutationFn: (edit: TileMapEdit) => call('PUT games/{game}/entries/{archive}/{n}/map', { ...entry, body: edit }),
    onSuccess: (answer) => {
      client.setQueryData(['tile-map', url], answer);
      // Files that are alike are read alike.
      void client.invalidateQueries({ queryKey: ['tile-map'] });
      onDone?.();
    },
  });
  const { width, height, layers, data, name } = places;
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate({
          ...{ width, height, data },
          ...(layers === '' ? {} : { layers }),
          ...(name === '' ? {} : { name }),
          tiles: {
            picture: picture.trim(),
            width: Number(tile.width),
            height: Number(tile.height),
            first: Number(tile.first),
          },
        });
      }}
    >
      <Box className="dim" sx={{ mb: 1.25 }}>
        This file looks like a map. Say which picture its tiles are in; it is then kept with the game, for all files
        like it.
      </Box>
      {trouble !== null && <FaultNote tone="brass">{trouble}</FaultNote>}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(2, minmax(0, 1fr))', gap: 1.25 }}>
        <TextField
          size="small"
          label="Picture with the tiles"
          placeholder="maps/tiles.png"
          value={picture}
          onChange={(event) => setPicture(event.target.value)}
          slotProps={{ htmlInput: { className: 'mono' } }}
          sx={{ gridColumn: '1 / -1' }}
        />
        <Box sx={{ display: 'flex', gap: 1.25, gridColumn: '1 / -1' }}>
          {(
            [
              ['width', 'Pixels of a tile'],
              ['height', 'and down'],
              ['first', 'First tile is'],
            ] as const
          ).map(([key, label]) => (
            <TextField
              key={key}
              size="small"
              type="number"
              label={label}
              value={tile[key]}
              onChange={(event) => setTile({ ...tile, [key]: event.target.value })}
              slotProps={{ htmlInput: { min: key === 'first' ? 0 : 1 } }}
            />
          ))}
        </Box>
        {(Object.keys(PLACES) as (keyof typeof PLACES)[]).map((key) => (
          <TextField
            key={key}
            size="small"
            label={PLACES[key]}
            placeholder={key === 'layers' || key === 'name' ? 'none' : '/field'}
            value={places[key]}
            onChange={(event) => setPlaces({ ...places, [key]: event.target.value.trim() })}
            slotProps={{ htmlInput: { className: 'mono' } }}
          />
        ))}
      </Box>
      {keep.error !== null && <FaultNote>{keep.error.message}</FaultNote>}
      <Box sx={{ display: 'flex', gap: 1, mt: 1.25 }}>
        <Button type="submit" variant="contained" disabled={picture.trim() === '' || keep.isPending}>
          Draw it
        </Button>
        {rule !== null && (
          <Button variant="text" disabled={keep.isPending} onClick={() => keep.mutate(null)}>
            Not a map
          </Button>
        )}
        {onDone !== undefined && (
          <Button variant="text" onClick={onDone}>
            Not now
          </Button>
        )}
      </Box>
    </Box>
  );
}
