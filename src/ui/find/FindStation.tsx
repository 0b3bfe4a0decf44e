'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import InputBase from '@mui/material/InputBase';
import Typography from '@mui/material/Typography';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useDeferredValue, useEffect, useRef, useState } from 'react';
import { KIND_NAMES, type ArchiveAnswer, type EntryRow, type TrayAnswer } from '../../server/shapes';
import { api } from '../shared/api';
import { Chip } from '../shared/Chip';
import { FilePick } from '../shared/FilePick';
import { count, counted, size } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { useNotice } from '../shared/notices';
import { useAct, useArchive, useEntry, useGame } from '../shared/queries';
import { Empty, FaultNote, Part } from '../shared/states';
import { useReplace } from '../change/use-replace';
import { isTyping } from '../shell/shortcuts';
import { StripFoot } from '../shell/Strip';
import { ContactSheet, EntryList } from './EntryViews';
import { FolderTree } from './FolderTree';
import { Inspector } from './Inspector';
import { useEntries } from './use-entries';
import { usePlace } from './use-place';

/** Station Find: the merged tree, the entries in it, and one of them looked at closely. */
export function FindStation({ gameId }: { gameId: number }) {
  const [place, go] = usePlace();
  const { data: game } = useGame(gameId);
  const [typed, setTyped] = useState(place.search);
  const search = useDeferredValue(typed);
  const [visible, setVisible] = useState({ from: 0, to: 60 });
  const entries = useEntries(gameId, { ...place, search }, visible);
  const { data: entry, error: entryError } = useEntry(gameId, place.selected);
  const field = useRef<HTMLInputElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const say = useNotice();
  const router = useRouter();
  const tray = useAct(gameId, (edit: object) => api<TrayAnswer>(`games/${gameId}/tray`, { body: edit }));
  const replace = useReplace(gameId);
  const onVisible = useCallback((from: number, to: number) => setVisible({ from, to }), []);
  const select = (row: EntryRow) => go({ selected: { archive: row.archive, n: row.n } });
  const toggleTray = () => {
    if (entry === undefined) return;
    tray.mutate(entry.inTray ? { remove: [entry.path] } : { add: [entry.path] });
  };
  const drop = async (path: string, file: File) => {
    const { done } = await replace.mutateAsync({ path, file });
    const text = `${file.name} now takes the place of ${path}${done.length > 0 ? `: ${done.join(', ')}` : ''}.`;
    say({
      tone: 'success',
      text,
      action: {
        label: 'Look at it',
        run: () => router.push(`/games/${gameId}/change?path=${encodeURIComponent(path)}`),
      },
    });
  };

  useEffect(() => {
    if (search !== place.search) go({ search });
  }, [search, place.search, go]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.altKey || event.metaKey) return;
      if (event.key === '/') {
        event.preventDefault();
        field.current?.focus();
      } else if (event.key.toLowerCase() === 't') toggleTray();
      else if (event.key.toLowerCase() === 'r' && entry !== undefined) files.current?.click();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });

  const archives = game?.archives.filter((archive) => archive.entryCount > 0) ?? [];
  const alone = useArchive(game, place.archive);
  const shown = useArchive(game, entry?.archive ?? place.archive ?? archives[0]?.id);
  if (game === undefined) return null;
  if (archives.length === 0) {
    return (
      <Empty
        title="There is nothing to find yet"
        actions={
          <Button variant="contained" component={Link} href={`/games/${gameId}/open`}>
            Go to Open
          </Button>
        }
      >
        {game.archives.some((archive) => archive.state === 'locked')
          ? 'The archives are locked: they need a key.'
          : 'No archive is open.'}
      </Empty>
    );
  }
  const view = {
    gameId,
    entries,
    place,
    onSelect: select,
    onVisible,
    onSort: (sort: typeof place.sort) =>
      go({ sort, order: place.sort === sort && place.order === 'up' ? 'down' : 'up' }),
    onDropFile: (row: EntryRow, file: File) => void drop(row.path, file).catch(() => {}),
  };
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
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
          <Box sx={{ mt: 1.5, maxHeight: 180, overflow: 'auto' }}>
            <Part title="Archives">
              {archives.map((archive) => (
                <Box
                  key={archive.id}
                  component="button"
                  type="button"
                  aria-pressed={place.archive === archive.id}
                  onClick={() => go({ archive: place.archive === archive.id ? undefined : archive.id })}
                  sx={{
                    all: 'unset',
                    boxSizing: 'border-box',
                    display: 'flex',
                    width: '100%',
                    cursor: 'pointer',
                    py: 0.4,
                    px: 0.75,
                    borderRadius: 1,
                    background: place.archive === archive.id ? 'var(--teal2)' : undefined,
                    '&:focus-visible': { outline: '2px solid var(--teal)' },
                  }}
                >
                  <Box sx={{ flex: 1, overflow: 'hidden', textOverflow: 'ellipsis' }}>{archive.path}</Box>
                  <span className="dim">{count(archive.entryCount)}</span>
                </Box>
              ))}
            </Part>
          </Box>
        </Box>
        <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column', p: 1.25 }}>
          <Box sx={{ display: 'flex', gap: 0.75, mb: 1, alignItems: 'center', flexWrap: 'wrap' }}>
            <InputBase
              inputRef={field}
              value={typed}
              onChange={(event) => setTyped(event.target.value)}
              onKeyDown={(event) => event.key === 'Escape' && setTyped('')}
              placeholder="Words, kind:sound, size:>64k, -not"
              inputProps={{ 'aria-label': 'Search' }}
              sx={{
                flex: '1 1 200px',
                border: '1px solid var(--line)',
                borderRadius: 1,
                background: 'var(--sheet)',
                px: 1.25,
                height: 32,
                fontSize: 13,
                '&:focus-within': { outline: '2px solid var(--teal)' },
              }}
            />
            {alone !== undefined && (
              <Chip
                on
                onClick={() => go({ archive: undefined, folder: '' })}
                label={`Only ${alone.path}: show the whole game`}
              >
                only {alone.path} ×
              </Chip>
            )}
            {KIND_NAMES.filter((kind) => (entries.page?.kinds[kind] ?? 0) > 0).map((kind) => (
              <Chip
                key={kind}
                on={search.includes(`kind:${kind}`)}
                label={KIND_WORDS[kind].many}
                onClick={() => setTyped(toggled(typed, `kind:${kind}`))}
              >
                <KindMark kind={kind} /> {count(entries.page?.kinds[kind] ?? 0)}
              </Chip>
            ))}
            <Chip on={place.view === 'list'} onClick={() => go({ view: 'list' })}>
              List
            </Chip>
            <Chip on={place.view === 'sheet'} onClick={() => go({ view: 'sheet' })}>
              Contact sheet
            </Chip>
          </Box>
          {entries.error !== null && <FaultNote tone="brass">{entries.error.message}</FaultNote>}
          {entries.page !== undefined && entries.total === 0 && entries.error === null ? (
            <Empty
              title="Nothing fits"
              actions={
                <Button
                  onClick={() => {
                    setTyped('');
                    go({ folder: '', archive: undefined });
                  }}
                >
                  Show everything
                </Button>
              }
            >
              No entry has all of that. Fewer words find more.
            </Empty>
          ) : place.view === 'list' ? (
            <EntryList key="list" {...view} />
          ) : (
            <ContactSheet key="sheet" {...view} />
          )}
          <Box className="dim" sx={{ pt: 0.75, display: 'flex', gap: 1.5, alignItems: 'center', height: 30 }}>
            <span>
              {counted(entries.total, 'entry', 'entries')}, {size(entries.page?.bytes ?? 0)}
            </span>
            {place.folder !== '' && (
              <Button variant="text" sx={{ py: 0 }} onClick={() => tray.mutate({ addFolder: place.folder })}>
                Put the whole folder {place.folder}/ into the tray
              </Button>
            )}
          </Box>
        </Box>
        <Inspector
          gameId={gameId}
          entry={entry}
          error={entryError}
          onTray={toggleTray}
          onReplace={() => files.current?.click()}
          onDrop={(file) => entry !== undefined && void drop(entry.path, file).catch(() => {})}
        />
        <FilePick
          pickRef={files}
          label="The file that replaces the entry"
          testId="replace-file"
          onPick={(file) => entry !== undefined && void drop(entry.path, file).catch(() => {})}
        />
      </Box>
      {shown !== undefined && (
        <StripFoot
          title={shown.path}
          note={`${size(shown.size)}${shown.proof !== null && shown.proof.bytes.explained === shown.proof.bytes.total ? ' · every byte explained' : ''}`}
          legend={<Legend />}
          bands={shown.bands}
          size={shown.size}
          marked={
            entry !== undefined && entry.archive === shown.id && entry.volume >= 0
              ? { at: volumeStart(shown, entry.volume) + entry.at, length: entry.stored }
              : undefined
          }
          onPick={(offset) =>
            void api<{ archive: number; n: number } | null>(
              `games/${gameId}/at?archive=${shown.id}&offset=${offset}`,
            ).then(
              (hit) => hit !== null && go({ selected: hit }),
              () => {},
            )
          }
        />
      )}
    </>
  );
}

/** Where a file of an archive begins on the strip. */
function volumeStart({ volumes }: ArchiveAnswer, volume: number): number {
  return volumes.slice(0, volume).reduce((sum, { size: bytes }) => sum + bytes, 0);
}

function toggled(search: string, word: string): string {
  const words = search.split(/\s+/).filter((one) => one !== '');
  return (
    words.includes(word)
      ? words.filter((one) => one !== word)
      : [...words.filter((one) => !one.startsWith('kind:')), word]
  ).join(' ');
}

function Legend() {
  return (
    <>
      <span>head</span>·
      {(['picture', 'sound', 'words', 'records'] as const).map((kind) => (
        <span key={kind} style={{ display: 'inline-flex', alignItems: 'center', gap: 5 }}>
          <KindMark kind={kind} /> {KIND_WORDS[kind].many.toLowerCase()}
        </span>
      ))}
      · <span>index</span>
    </>
  );
}
