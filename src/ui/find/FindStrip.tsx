'use client';
import { KIND_NAMES, type ArchiveAnswer, type EntryDetails } from '../../server/shapes';
import { call } from '../shared/api';
import { size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { StripFoot } from '../shell/Strip';

interface Props {
  readonly gameId: number;
  readonly archive: ArchiveAnswer;
  readonly entry: EntryDetails | undefined;
  readonly onSelect: (entry: { archive: number; n: number }) => void;
}

/** The archive of what is looked at, as a strip with the bytes of the entry marked. */
export function FindStrip({ gameId, archive, entry, onSelect }: Props) {
  const { proof } = archive;
  const explained = proof !== null && proof.bytes.explained === proof.bytes.total;
  const pick = async (offset: number) => {
    const hit = await call('GET games/{game}/at', { game: gameId, query: { archive: archive.id, offset } });
    if (hit !== null) onSelect(hit);
  };
  return (
    <StripFoot
      title={archive.path}
      note={`${size(archive.size)}${explained ? ' · every byte explained' : ''}`}
      legend={<Legend kinds={new Set(archive.bands.map(({ what }) => what))} />}
      bands={archive.bands}
      size={archive.size}
      marked={
        entry !== undefined && entry.archive === archive.id && entry.volume >= 0
          ? { at: volumeStart(archive, entry.volume) + entry.at, length: entry.stored }
          : undefined
      }
      onPick={(offset) => void pick(offset).catch(() => {})}
    />
  );
}

/** Where a file of an archive begins on the strip. */
function volumeStart({ volumes }: ArchiveAnswer, volume: number): number {
  return volumes.slice(0, volume).reduce((sum, { size: bytes }) => sum + bytes, 0);
}

/** The kinds that a strip has any of. */
function Legend({ kinds }: { kinds: ReadonlySet<string> }) {
  return (
    <>
      <span>head</span>·
      {KIND_NAMES.filter((kind) => kinds.has(kind)).map((kind) => (
        <span key={kind} style={{ display: 'inline-flex', alignItems: 'center', gap: 5 }}>
          <KindMark kind={kind} /> {KIND_WORDS[kind].many.toLowerCase()}
        </span>
      ))}
      · <span>index</span>
    </>
  );
}
