'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import { KIND_NAMES, type EntryRow, type RunAnswer, type SavedSearch } from '../../server/shapes';
import { InsteadDialog } from '../change/InsteadDialog';
import { useBringIn } from '../change/use-bring-in';
import { resultOf } from '../runs/run-result';
import { type BodyOf, call } from '../shared/api';
import { Chip } from '../shared/Chip';
import { FilePick } from '../shared/FilePick';
import { count } from '../shared/format';
import { KIND_WORDS, KindMark } from '../shared/marks';
import { useNotice } from '../shared/notices';
import { useGameMutation, useArchive, useEntry, useGame } from '../shared/queries';
import { Empty, FaultNote } from '../shared/states';
import { isTyping } from '../shell/shortcuts';
import { CompareDialog, type Which } from './CompareDialog';
import { ContactSheet } from './ContactSheet';
import { EntryList } from './EntryList';
import { FindStrip } from './FindStrip';
import { InsideDialog } from './InsideDialog';
import { InsideHits } from './InsideHits';
import { Inspector, type Reveal } from './Inspector';
import { KeepSearchDialog } from './KeepSearchDialog';
import { LabelsDialog } from './LabelsDialog';
import { ListFoot, listPart } from './ListFoot';
import { NothingYet } from './NothingYet';
import { Overview } from './Overview';
import { SearchLine } from './SearchLine';
import { SideLists } from './SideLists';
import { queryOf, useEntries, usePagesInView } from './use-entries';
import { usePlace, VIEWS, type View } from './use-place';
import { useSavedSearches } from './use-saved-searches';
import { useSearchLine } from './use-search-line';
import { useSelection } from './use-selection';

const VIEW_WORDS: Readonly<Record<View, string>> = { list: 'List', sheet: 'Contact sheet', overview: 'Overview' };

/** Station Find: the merged tree, the entries in it, and one of them looked at closely. */
export function FindStation({ gameId }: { gameId: number }) {
  const [place, goTo] = usePlace();
  const { data: game } = useGame(gameId);
  const { typed, search, type, toggle, go } = useSearchLine(place, goTo);
  const [pages, onVisible] = usePagesInView();
  const listed = { ...place, search };
  const entries = useEntries(gameId, listed, pages);
  const selection = useSelection(queryOf(listed));
  const { data: entry, error: entryError } = useEntry(gameId, place.selected);
  const searchField = useRef<HTMLInputElement>(null);
  const labelField = useRef<HTMLInputElement>(null);
  // L was pressed while the entry was still on its way.
  const labelWanted = useRef(false);
  const listBox = useRef<HTMLDivElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const [dialog, setDialog] = useState<'labels' | 'keep' | 'inside' | 'instead'>();
  const [compared, setCompared] = useState<readonly [Which, Which]>();
  const [reveal, setReveal] = useState<Reveal & { hit: number }>();
  const say = useNotice();
  const router = useRouter();
  const saved = useSavedSearches(gameId);
  const tray = useGameMutation(gameId, (edit: BodyOf<'POST games/{game}/tray'>) =>
    call('POST games/{game}/tray', { game: gameId, body: edit }),
  );
  const remove = useGameMutation(gameId, async (path: string) => {
    await call('POST games/{game}/changes', { game: gameId, body: { remove: path } });
    const look = { label: 'Look at it', run: () => router.push(changeUrl(gameId, path)) };
    say({ tone: 'success', text: `${path} will be removed from the game.`, action: look });
  });
  const select = useCallback((row: EntryRow) => go({ selected: { archive: row.archive, n: row.n } }), [go]);
  const toggleTray = () => {
    if (entry === undefined) return;
    tray.mutate(entry.inTray ? { remove: [entry.path] } : { add: [entry.path] });
  };
  const onBrought = useCallback(
    (run: RunAnswer) => {
      const path = resultOf(run, 'bring-in')?.first ?? undefined;
      const look = { label: 'Look at it', run: () => router.push(changeUrl(gameId, path)) };
      if (run.fault !== null) say({ tone: 'error', text: run.fault.sentence });
      else if (path === undefined)
        say({ tone: 'error', text: 'The file was not taken. Change says why.', action: look });
      else say({ tone: 'success', text: `${path} is changed.`, action: look });
    },
    [gameId, router, say],
  );
  const bringIn = useBringIn(gameId, onBrought);
  const drop = (path: string, file: File) => {
    say({ tone: 'info', text: `${file.name} is made to fit ${path}…` });
    void bringIn.bring([{ file, path }]);
  };
  const [notSent] = bringIn.refused;
  useEffect(() => {
    if (notSent !== undefined) say({ tone: 'error', text: notSent });
  }, [notSent, say]);
  const goToPath = async (path: string) => {
    try {
      const { archive, n } = await call('GET games/{game}/winner', { game: gameId, query: { path } });
      go({ selected: { archive, n } });
    } catch (error) {
      say({ tone: 'error', text: (error as Error).message });
    }
  };
  const goToSaved = ({ place: address }: SavedSearch) => {
    type(new URLSearchParams(address).get('search') ?? '');
    router.push(`/games/${gameId}/find?${address}`);
  };

  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event) || event.ctrlKey || event.altKey || event.metaKey) return;
      const act = {
        '/': () => searchField.current?.focus(),
        t: toggleTray,
        r: () => entry !== undefined && files.current?.click(),
        l: () => {
          labelWanted.current = labelField.current === null;
          labelField.current?.focus();
        },
      }[event.key.toLowerCase()];
      if (act === undefined) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });

  useEffect(() => {
    if (entry === undefined || !labelWanted.current) return;
    labelWanted.current = false;
    labelField.current?.focus();
  }, [entry]);

  const archives = game?.archives.filter((archive) => archive.entryCount > 0) ?? [];
  const alone = useArchive(game, place.archive);
  const shown = useArchive(game, entry?.archive ?? place.archive ?? archives[0]?.id);
  if (game === undefined) return null;
  if (archives.length === 0) return <NothingYet gameId={gameId} archives={game.archives} />;
  const view = {
    gameId,
    entries,
    place: listed,
    selection,
    onSelect: select,
    onVisible,
    onSort: (sort: typeof place.sort) =>
      go({ sort, order: place.sort === sort && place.order === 'up' ? 'down' : 'up' }),
    onDropFile: (row: EntryRow, file: File) => drop(row.path, file),
  };
  const nothingFits = entries.page !== undefined && entries.total === 0 && entries.error === null;
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <SideLists
          gameId={gameId}
          place={listed}
          go={(next) => go({ ...next, inside: undefined })}
          archives={archives}
          page={entries.page}
          saved={saved.list}
          onSaved={goToSaved}
          onForget={saved.forget}
        />
        <Box ref={listBox} sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column', p: 1.25 }}>
          <Box sx={{ display: 'flex', gap: 0.75, mb: 1, alignItems: 'center', flexWrap: 'wrap' }}>
            <Box sx={{ flex: '1 1 520px', display: 'flex', gap: 0.75, alignItems: 'center' }}>
              <SearchLine
                value={typed}
                onChange={type}
                archives={archives.map(({ path }) => path)}
                saved={saved.list}
                onSaved={goToSaved}
                fieldRef={searchField}
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
              {KIND_NAMES.filter((kind) => (entries.page?.kinds[kind] ?? 0) > 0).map((kind) => (
                <Chip
                  key={kind}
                  on={search.includes(`kind:${kind}`)}
                  label={KIND_WORDS[kind].many}
                  onClick={() => toggle(`kind:${kind}`)}
                >
                  <KindMark kind={kind} /> {count(entries.page?.kinds[kind] ?? 0)}
                </Chip>
              ))}
            </Box>
          </Box>
          {entries.error !== null && <FaultNote tone="brass">{entries.error.message}</FaultNote>}
          {place.inside !== undefined ? (
            <InsideHits
              gameId={gameId}
              run={place.inside}
              chosen={reveal?.hit}
              onHit={({ archive, n, at, length, number }) => {
                setReveal({ archive, n, at, length, hit: number });
                // A file that nothing reads has no entry to look at.
                go({ selected: n < 0 ? undefined : { archive, n } });
              }}
            />
          ) : nothingFits ? (
            <Box sx={{ flex: 1 }}>
              <Empty
                title="No entries match"
                actions={
                  <Button
                    onClick={() => {
                      type('');
                      go({ folder: '', archive: undefined });
                    }}
                  >
                    Show everything
                  </Button>
                }
              >
                No entry matches all of these words. Try fewer.
              </Empty>
            </Box>
          ) : place.view === 'overview' ? (
            <Overview
              gameId={gameId}
              place={listed}
              go={go}
              onNarrow={toggle}
              onSelect={(selected) => go({ selected })}
            />
          ) : place.view === 'list' ? (
            <EntryList key="list" {...view} />
          ) : (
            <ContactSheet key="sheet" {...view} />
          )}
          <ListFoot
            gameId={gameId}
            place={listed}
            entries={entries}
            selection={selection}
            onLabelTable={() => setDialog('labels')}
            onInside={() => setDialog('inside')}
            onCompare={(left, right) => setCompared([left, right])}
            onKeep={search.trim() === '' && place.folder === '' ? undefined : () => setDialog('keep')}
          />
        </Box>
        <Inspector
          gameId={gameId}
          entry={entry}
          error={entryError}
          reveal={reveal}
          onGo={(path) => void goToPath(path)}
          onCompare={(left, right) => setCompared([left, right])}
          labelRef={labelField}
          onLabelled={() => listBox.current?.querySelector<HTMLElement>('[role=listbox]')?.focus()}
          onTray={toggleTray}
          onReplace={() => files.current?.click()}
          onInstead={() => setDialog('instead')}
          onRemove={() => entry !== undefined && remove.mutate(entry.path)}
          onDrop={(file) => entry !== undefined && drop(entry.path, file)}
        />
        <FilePick
          pickRef={files}
          label="The file that replaces the entry"
          testId="replace-file"
          onPick={(file) => entry !== undefined && drop(entry.path, file)}
        />
      </Box>
      {dialog === 'labels' && (
        <LabelsDialog gameId={gameId} folder={place.folder} onClose={() => setDialog(undefined)} />
      )}
      {dialog === 'inside' && (
        <InsideDialog
          gameId={gameId}
          part={listPart(listed, selection)}
          count={selection.count > 1 ? selection.count : entries.total}
          onStarted={({ id }) => {
            setReveal(undefined);
            go({ inside: id });
          }}
          onClose={() => setDialog(undefined)}
        />
      )}
      {dialog === 'instead' && entry !== undefined && (
        <InsteadDialog
          gameId={gameId}
          path={entry.path}
          onStarted={bringIn.goOn}
          onClose={() => setDialog(undefined)}
        />
      )}
      {compared !== undefined && (
        <CompareDialog gameId={gameId} left={compared[0]} right={compared[1]} onClose={() => setCompared(undefined)} />
      )}
      {dialog === 'keep' && (
        <KeepSearchDialog
          suggestion={[place.folder, search].filter((part) => part !== '').join(' ')}
          onKeep={(name) => saved.keep(name, listed)}
          onClose={() => setDialog(undefined)}
        />
      )}
      {shown !== undefined && (
        <FindStrip gameId={gameId} archive={shown} entry={entry} onSelect={(selected) => go({ selected })} />
      )}
    </>
  );
}

const changeUrl = (gameId: number, path: string | undefined) =>
  `/games/${gameId}/change${path === undefined ? '' : `?path=${encodeURIComponent(path)}`}`;
