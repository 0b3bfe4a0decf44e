'use client';
import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { call, entryIn } from '../../shared/api';
import type { SubjectAddress } from '../form-view';
import { Chip } from '../../shared/Chip';
import { TextView } from './TextView';
import { TileMapForm } from './TileMapForm';
import { TileMapView } from './TileMapView';

interface Props {
  readonly subject: SubjectAddress;
  readonly name: string;
  readonly height: number;
  readonly size: number;
}

/** JSON as its text, and as a map where it holds one. */
export function JsonPreview({ subject, name, height, size }: Props) {
  const url = `${subject}/bytes`;
  const entry = entryIn(subject);
  const { data } = useQuery({
    queryKey: ['tile-map', url],
    queryFn: () => call('GET games/{game}/entries/{archive}/{n}/map', entry!),
    enabled: entry !== undefined,
  });
  const [chosen, setChosen] = useState<'text' | 'map'>();
  const text = <TextView url={url} name=".json" height={height} size={size} />;
  if (entry === undefined || data === undefined || (data.rule === null && data.guess === null)) return text;
  const shown = chosen ?? (data.map === null ? 'text' : 'map');
  return (
    <>
      <Box sx={{ display: 'flex', gap: 0.75, mb: 1 }}>
        <Chip on={shown === 'text'} onClick={() => setChosen('text')}>
          Text
        </Chip>
        <Chip on={shown === 'map'} onClick={() => setChosen('map')}>
          Map
        </Chip>
      </Box>
      {shown === 'text' ? (
        text
      ) : data.map === null ? (
        <TileMapForm entry={entry} url={url} answer={data} />
      ) : (
        <TileMapView entry={entry} url={url} answer={data} map={data.map} name={name} height={height} />
      )}
    </>
  );
}
