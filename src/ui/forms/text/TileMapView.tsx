'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import type { TileMapAnswer } from '../../../server/shapes';
import { type EntryAddress, entryUrl } from '../../shared/api';
import { Chip } from '../../shared/Chip';
import { count } from '../../shared/format';
import { TileMapForm } from './TileMapForm';

interface Props {
  readonly entry: EntryAddress;
  readonly url: string;
  readonly answer: TileMapAnswer;
  readonly map: NonNullable<TileMapAnswer['map']>;
  readonly name: string;
  readonly height: number;
}

/** A map of tile layers, drawn; each layer can be left out. */
export function TileMapView({ entry, url, answer, map, name, height }: Props) {
  const [hidden, setHidden] = useState<ReadonlySet<number>>(new Set());
  const [editing, setEditing] = useState(false);
  if (editing) return <TileMapForm entry={entry} url={url} answer={answer} onDone={() => setEditing(false)} />;
  const shown = map.layers.map((_, i) => i).filter((i) => !hidden.has(i));
  // Another rule is another picture.
  const mark = encodeURIComponent(JSON.stringify(answer.rule));
  const picture = `${entryUrl(entry.game, entry, 'map/picture')}?layers=${shown.join(',')}&rule=${mark}`;
  const toggle = (layer: number) => {
    const next = new Set(hidden);
    if (!next.delete(layer)) next.add(layer);
    setHidden(next);
  };
  return (
    <>
      <Box
        sx={{
          maxHeight: height,
          overflow: 'auto',
          border: '1px solid var(--line)',
          borderRadius: 1,
          background: 'var(--checker, var(--paper))',
        }}
        tabIndex={0}
        role="region"
        aria-label={`The map ${name}`}
      >
        <Box
          component="img"
          src={picture}
          alt={`${name} as a map of ${map.width} × ${map.height} tiles`}
          sx={{ display: 'block', maxWidth: '100%', imageRendering: 'pixelated' }}
        />
      </Box>
      <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', alignItems: 'center', mt: 1 }}>
        <span className="dim">
          {count(map.width)} × {count(map.height)} tiles
        </span>
        {map.layers.length > 1 &&
          map.layers.map((layer, i) => (
            <Chip key={i} on={!hidden.has(i)} onClick={() => toggle(i)}>
              {layer}
            </Chip>
          ))}
        <Box sx={{ flex: 1 }} />
        <Button variant="text" component="a" href={picture} download={name.replace(/\.json$/i, '.png')}>
          Save as PNG
        </Button>
        <Button variant="text" onClick={() => setEditing(true)}>
          How it is read…
        </Button>
      </Box>
    </>
  );
}
