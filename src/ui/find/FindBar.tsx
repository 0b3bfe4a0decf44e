import Box from '@mui/material/Box';
import { useRouter } from 'next/navigation';
import type { ComponentProps } from 'react';
import { KIND_NAMES, type ArchiveAnswer, type EntryPage } from '../../server/shapes';
import { Chip } from '../shared/Chip';
import { count } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { SearchLine } from './SearchLine';
import { VIEWS, type Place, type View } from './use-place';

const VIEW_WORDS: Readonly<Record<View, string>> = { list: 'List', sheet: 'Contact sheet', overview: 'Overview' };

interface Props {
  readonly gameId: number;
  readonly search: ComponentProps<typeof SearchLine>;
  readonly place: Place;
  /** The one archive that is shown, when it is only one. */
  readonly alone: ArchiveAnswer | undefined;
  readonly kinds: EntryPage['kinds'] | undefined;
  readonly go: (next: Partial<Place>) => void;
  /** Adds a word to the search, or takes it out. */
  readonly toggle: (word: string) => void;
}

/** The search line, the views, and the kinds there are among what was found. */
export function FindBar({ gameId, search, place, alone, kinds, go, toggle }: Props) {
  const router = useRouter();
  return (
    <Box sx={{ display: 'flex', gap: 0.75, mb: 1, alignItems: 'center', flexWrap: 'wrap' }}>
      <Box sx={{ flex: '1 1 520px', display: 'flex', gap: 0.75, alignItems: 'center' }}>
        <SearchLine {...search} />
        {alone !== undefined && (
          <Chip
            on
            onClick={() => go({ archive: undefined, folder: '' })}
            label={`Only ${alone.path}: show the whole game`}
          >
            only {alone.path} ×
          </Chip>
        )}
        {place.inside !== undefined && (
          <Chip on onClick={() => go({ inside: undefined })} label="Back from what was found inside">
            inside ×
          </Chip>
        )}
        {VIEWS.map((one) => (
          <Chip
            key={one}
            on={place.view === one && place.inside === undefined}
            onClick={() => go({ view: one, inside: undefined })}
          >
            {VIEW_WORDS[one]}
          </Chip>
        ))}
        <Chip on={false} onClick={() => router.push(`/games/${gameId}/records`)} label="Records as tables">
          Records
        </Chip>
      </Box>
      <Box role="group" aria-label="Kinds" sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap' }}>
        {KIND_NAMES.filter((kind) => (kinds?.[kind] ?? 0) > 0).map((kind) => (
          <Chip
            key={kind}
            on={place.search.includes(`kind:${kind}`)}
            label={KIND_WORDS[kind].many}
            onClick={() => toggle(`kind:${kind}`)}
          >
            <KindMark kind={kind} /> {count(kinds?.[kind] ?? 0)}
          </Chip>
        ))}
      </Box>
    </Box>
  );
}
