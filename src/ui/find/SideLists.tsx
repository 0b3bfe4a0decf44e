'use client';
import { visible } from '../../core/faults/visible';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import type { ArchiveAnswer, EntryPage, SavedSearch } from '../../server/shapes';
import { count } from '../shared/format';
import { Part } from '../shared/states';
import { FolderTree } from './FolderTree';
import type { Place } from './use-place';

interface Props {
  readonly gameId: number;
  readonly place: Place;
  readonly go: (next: Partial<Place>) => void;
  readonly archives: readonly ArchiveAnswer[];
  readonly page: EntryPage | undefined;
  readonly saved: readonly SavedSearch[];
  readonly onSaved: (search: SavedSearch) => void;
  readonly onForget: (search: SavedSearch) => void;
}

const row = {
  all: 'unset',
  boxSizing: 'border-box',
  display: 'flex',
  flex: 1,
  minWidth: 0,
  gap: 1,
  cursor: 'pointer',
  py: 0.4,
  px: 0.75,
  borderRadius: 1,
  '&:focus-visible': { outline: '2px solid var(--teal)' },
} as const;
const oneLine = { flex: 1, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Beside the entries: the folders, the archives with what of the search lies in each, and the searches that were kept. */
export function SideLists({ gameId, place, go, archives, page, saved, onSaved, onForget }: Props) {
  const searching = place.search.trim() !== '' || place.folder !== '';
  const found = new Map(page?.archives.map((archive) => [archive.id, archive.count]));
  return (
    <Box
      component="aside"
      aria-label="Folders and archives"
      sx={{
        width: 216,
        flex: 'none',
        display: 'flex',
        flexDirection: 'column',
        background: 'var(--sheet)',
        borderRight: '1px solid var(--line)',
        px: 1.75,
        py: 1.5,
        minHeight: 0,
      }}
    >
      <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
        Folders
      </Typography>
      <FolderTree
        key={place.archive}
        gameId={gameId}
        archive={place.archive}
        selected={place.folder}
        onSelect={(folder) => go({ folder })}
      />
      <Box sx={{ mt: 1.5, maxHeight: 200, overflow: 'auto' }}>
        <Part title="Archives">
          {archives.map((archive) => {
            const on = place.archive === archive.id;
            const inIt = searching && place.archive === undefined ? (found.get(archive.id) ?? 0) : archive.entryCount;
            return (
              <Box
                key={archive.id}
                component="button"
                type="button"
                aria-pressed={on}
                onClick={() => go({ archive: on ? undefined : archive.id })}
                sx={{
                  ...row,
                  width: '100%',
                  background: on ? 'var(--teal2)' : undefined,
                  color: inIt === 0 ? 'var(--dim)' : undefined,
                }}
              >
                <Box sx={oneLine} title={archive.path}>
                  {visible(archive.path)}
                </Box>
                <span className="dim">{count(inIt)}</span>
              </Box>
            );
          })}
        </Part>
        {saved.length > 0 && (
          <Part title="Saved searches">
            {saved.map((search) => (
              <Box key={search.id} sx={{ display: 'flex', alignItems: 'center' }}>
                <Box component="button" type="button" onClick={() => onSaved(search)} sx={row}>
                  <Box sx={oneLine} title={search.name}>
                    {search.name}
                  </Box>
                </Box>
                <IconButton
                  size="small"
                  aria-label={`Delete the search ${search.name}`}
                  onClick={() => onForget(search)}
                  sx={{ width: 24, height: 24, fontSize: 14 }}
                >
                  ×
                </IconButton>
              </Box>
            ))}
          </Part>
        )}
      </Box>
    </Box>
  );
}
