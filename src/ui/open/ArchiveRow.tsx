'use client';
import { visible } from '../../core/faults/visible';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from 'next/link';
import { useState } from 'react';
import type { ArchiveAnswer } from '../../server/shapes';
import { count, counted, fileName, keyWords, size } from '../shared/format';
import { Latch } from '../shared/marks';
import { FaultNote } from '../shared/states';
import { StripBar } from '../shell/Strip';
import { Inside } from './Inside';
import { NewsLine } from './NewsLine';
import { ProofLines } from './ProofLines';
import { FittingRecipes } from './FittingRecipes';

interface Props {
  readonly gameId: number;
  readonly archive: ArchiveAnswer;
  readonly onUnlock: () => void;
}

/** An archive of the folder: what it is, where its bytes go, and what can be done with it. Its handle moves it in the load order. */
export function ArchiveRow({ gameId, archive, onUnlock }: Props) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: archive.path,
  });
  const [inside, setInside] = useState(false);
  const { proof } = archive;
  const trouble = archive.state === 'damaged' ? archive.fault?.sentence : proof?.firsts[0];
  return (
    <Box
      ref={setNodeRef}
      data-testid={`archive ${archive.path}`}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      sx={{
        border: '1px solid var(--line)',
        borderRadius: 1.5,
        background: 'var(--sheet)',
        px: 1.25,
        py: 1.1,
        mb: 1,
        position: 'relative',
        zIndex: isDragging ? 2 : undefined,
        boxShadow: isDragging ? '0 6px 18px rgb(0 0 0 / 18%)' : undefined,
      }}
    >
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: '20px 34px minmax(110px, 150px) minmax(180px, 1fr) 86px',
          alignItems: 'center',
          columnGap: 1.25,
        }}
      >
        <Box
          ref={setActivatorNodeRef}
          component="button"
          type="button"
          {...attributes}
          {...listeners}
          aria-label={`Move ${archive.path} in the load order`}
          title="Drag, or press Space and the arrow keys"
          sx={{
            all: 'unset',
            cursor: isDragging ? 'grabbing' : 'grab',
            touchAction: 'none',
            color: 'var(--dim)',
            lineHeight: 0,
            borderRadius: 1,
            '&:focus-visible': { outline: '2px solid var(--teal)' },
          }}
        >
          <Grip />
        </Box>
        <Latch state={archive.state} />
        <Box sx={{ minWidth: 0 }}>
          <Box sx={{ fontWeight: 700, overflow: 'hidden', textOverflow: 'ellipsis' }} title={archive.path}>
            {visible(archive.path)}
            {companions(archive)}
          </Box>
          <span className="dim">{archive.title ?? 'No recipe knows it'}</span>
        </Box>
        <Box sx={{ minWidth: 0 }}>
          <Box sx={{ mb: 0.5 }}>{stateLine(archive)}</Box>
          <StripBar bands={archive.bands} size={archive.size} label={`The bytes of ${archive.path}`} />
          {archive.state === 'open' && proof !== null && <ProofLines archive={archive} />}
        </Box>
        <Box sx={{ textAlign: 'right' }}>
          {archive.state === 'locked' && <Button onClick={onUnlock}>Unlock…</Button>}
          {archive.state === 'open' && proof === null && <span className="dim">being proven…</span>}
          {archive.entryCount > 0 && (
            <Box sx={{ mt: 0.25 }}>
              <Link
                aria-label="Show only this archive"
                href={`/games/${gameId}/find?archive=${archive.id}`}
                style={{ color: 'var(--teal)', display: 'inline-block', lineHeight: '24px' }}
              >
                Show only this
              </Link>
            </Box>
          )}
          {archive.inside > 0 && (
            <Button
              variant="text"
              aria-expanded={inside}
              sx={{ p: 0, minHeight: 24, color: 'var(--teal)' }}
              onClick={() => setInside(!inside)}
            >
              {inside ? 'Hide' : counted(archive.inside, 'package')}
            </Button>
          )}
        </Box>
      </Box>
      {archive.fits.length > 1 && <FittingRecipes gameId={gameId} archive={archive} />}
      {archive.news !== null && <NewsLine archive={archive} />}
      {trouble !== undefined && (
        <Box sx={{ mt: 1 }}>
          <FaultNote>{trouble}</FaultNote>
        </Box>
      )}
      {inside && <Inside gameId={gameId} archive={archive} />}
    </Box>
  );
}

/** Six dots: something to take hold of. */
function Grip() {
  return (
    <svg width="10" height="16" viewBox="0 0 10 16" aria-hidden fill="currentColor">
      {[2, 8, 14].flatMap((y) => [2, 8].map((x) => <circle key={`${x} ${y}`} cx={x} cy={y} r="1.2" />))}
    </svg>
  );
}

/** `voices.cue + .wax`, `world.idx + 3 volumes`. */
function companions({ path, volumes }: ArchiveAnswer): string {
  const [main, second] = volumes;
  if (main === undefined || second === undefined) return '';
  if (volumes.some((volume) => volume.name.includes('/'))) return ` + ${count(volumes.length - 1)} files`;
  if (volumes.length > 2) return ` + ${count(volumes.length - 1)} volumes`;
  const name = fileName(path);
  const shared = [name, name.replace(/\.[^.]*$/, '')].find((one) => second.name.startsWith(`${one}.`)) ?? '';
  return ` + ${second.name.slice(shared.length)}`;
}

function stateLine(archive: ArchiveAnswer): string {
  if (archive.state === 'locked')
    return `Locked. Needs ${Object.entries(archive.slots)
      .map(([slot, kind]) => `${keyWords(kind)} for “${slot}”`)
      .join(' and ')}.`;
  if (archive.state === 'unsure') return `${count(archive.fits.length)} recipes fit. Which one is it?`;
  if (archive.fault?.code === 'volume-missing') return 'A file that belongs to it is not there.';
  const nameless = archive.hashed ? archive.entryCount - archive.named : 0;
  return [
    counted(archive.entryCount, 'entry', 'entries'),
    ...(nameless > 0 ? [`${count(nameless)} nameless`] : []),
    ...(archive.covers > 0
      ? [archive.covers === 1 ? '1 covers another' : `${count(archive.covers)} cover others`]
      : []),
    ...(archive.removes > 0 ? [`removes ${count(archive.removes)}`] : []),
    size(archive.size),
  ].join(' · ');
}
