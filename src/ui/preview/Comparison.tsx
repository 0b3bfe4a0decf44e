'use client';
import Box from '@mui/material/Box';
import { diffLines } from 'diff';
import { useMemo } from 'react';
import type { FilmFacts, KindName } from '../../server/shapes';
import { formView, type SubjectAddress } from '../forms';
import { FaultNote } from '../shared/states';
import { BytesView, type ByteMark } from './BytesView';
import { FilmPlayer } from './FilmPlayer';
import { MeshView } from './MeshView';
import { PictureComparison } from './PictureComparison';
import { SoundsOverlaid } from './SoundsOverlaid';
import { SoundSwitch } from './SoundSwitch';
import { SoundView } from './SoundView';
import { useText } from './TextView';

/** One side of a comparison. */
export interface Side {
  readonly url: string;
  /** What is over it, such as "Before". */
  readonly label: string;
  readonly size: number;
  /** Set for a picture that is packed in a way no browser reads. */
  readonly packed?: boolean;
  /** Set for a sound whose archive says what it is. */
  readonly told?: boolean;
  /** Set for a film; `changed` where it is seen as the game will have it. */
  readonly film?: { readonly facts: FilmFacts; readonly changed: boolean };
  /** Below which its renditions are. */
  readonly subject?: SubjectAddress;
  /** Bytes that the other side has otherwise. */
  readonly marks?: readonly ByteMark[];
}

interface Sides {
  readonly before: Side;
  readonly after: Side;
  readonly name: string;
}

/** Two things of one kind side by side, in the manner of that kind. */
export function Comparison({ kind, ...sides }: Sides & { kind: KindName }) {
  const form = formView(kind);
  const both = [sides.before, sides.after].flatMap(({ subject, label }) =>
    subject === undefined ? [] : [{ subject, label }],
  );
  if (form !== undefined && both.length === 2) return <form.Compare sides={both} />;
  switch (kind) {
    case 'picture':
      return (
        <PictureComparison
          before={{ label: sides.before.label, source: sourceOf(sides.before) }}
          after={{ label: sides.after.label, source: sourceOf(sides.after) }}
          name={sides.name}
        />
      );
    case 'sound':
      return <Sounds {...sides} />;
    case 'film':
      return sides.before.film === undefined || sides.after.film === undefined ? (
        <BytesBeside {...sides} />
      ) : (
        <Films {...sides} />
      );
    case 'mesh':
      return <Meshes {...sides} />;
    case 'words':
    case 'records':
      return <Lines {...sides} />;
    default:
      return <BytesBeside {...sides} />;
  }
}

const sourceOf = ({ url, packed = false }: Side) =>
  packed ? { url: url.replace(/bytes$/, 'picture'), packed } : { url, packed };

const heardAt = ({ url, told }: Side) => (told === true ? url.replace(/bytes$/, 'sound') : url);

function Sounds({ before, after, name }: Sides) {
  return (
    <Box sx={{ display: 'grid', gap: 2 }}>
      {[before, after].map((side) => (
        <Labelled key={side.url} label={side.label}>
          <SoundView url={heardAt(side)} name={`${name} ${side.label.toLowerCase()}`} keys={false} />
        </Labelled>
      ))}
      <SoundsOverlaid urls={[heardAt(before), heardAt(after)]} labels={[before.label, after.label]} />
      <SoundSwitch
        key={`${before.url} ${after.url}`}
        urls={[heardAt(before), heardAt(after)]}
        labels={[before.label, after.label]}
      />
    </Box>
  );
}

function Films({ before, after }: Sides) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
      {[before, after].map(({ url, label, film }) => (
        <Labelled key={`${url} ${label}`} label={label}>
          <FilmPlayer url={url} film={film!.facts} changed={film!.changed} keys={false} />
        </Labelled>
      ))}
    </Box>
  );
}

function Meshes({ before, after, name }: Sides) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
      {[before, after].map(({ url, label }) => (
        <Labelled key={url} label={label}>
          <MeshView url={url.replace(/bytes$/, 'model')} name={`${name} ${label.toLowerCase()}`} height={360} />
        </Labelled>
      ))}
    </Box>
  );
}

/** Both as bytes; where they first differ comes into view. */
export function BytesBeside({ before, after }: Omit<Sides, 'name'>) {
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
      {[before, after].map(({ url, label, size, marks }) => (
        <Labelled key={url} label={label}>
          <BytesView
            url={url}
            size={size}
            {...(marks === undefined ? {} : { marks })}
            {...(marks?.[0] === undefined ? {} : { reveal: { at: marks[0].at, turn: 0 } })}
          />
        </Labelled>
      ))}
    </Box>
  );
}

function Labelled({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Box sx={{ minWidth: 0 }}>
      <Box className="dim" sx={{ mb: 0.5 }}>
        {label}
      </Box>
      {children}
    </Box>
  );
}

/** What lines went and what came. */
function Lines({ before, after }: Sides) {
  const old = useText(before.url);
  const fresh = useText(after.url);
  const parts = useMemo(
    // A comparison that takes too long is given up rather than holding the page.
    () =>
      old.data === undefined || fresh.data === undefined
        ? undefined
        : (diffLines(old.data, fresh.data, { timeout: 1500 }) ?? []),
    [old.data, fresh.data],
  );
  const error = old.error ?? fresh.error;
  if (error !== null) return <FaultNote>{error.message}</FaultNote>;
  return (
    <Box
      component="pre"
      tabIndex={0}
      aria-label="Lines that differ"
      className="mono"
      sx={{
        m: 0,
        maxHeight: 460,
        overflow: 'auto',
        whiteSpace: 'pre-wrap',
        overflowWrap: 'anywhere',
        border: '1px solid var(--line)',
        borderRadius: 1,
        background: 'var(--sheet)',
        py: 1,
      }}
    >
      {parts?.flatMap((part, i) =>
        part.value
          .replace(/\n$/, '')
          .split('\n')
          .map((line, j) => (
            <Box
              key={`${i} ${j}`}
              component="span"
              sx={{
                display: 'block',
                px: 1.5,
                background: part.added ? 'var(--teal2)' : part.removed ? 'var(--brick2)' : undefined,
              }}
            >
              <span aria-hidden>{part.added ? '+ ' : part.removed ? '− ' : '  '}</span>
              {line}
            </Box>
          )),
      )}
    </Box>
  );
}
