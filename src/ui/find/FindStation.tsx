'use client';
import Box from '@mui/material/Box';
import { useRouter } from 'next/navigation';
import { useCallback, useRef, useState } from 'react';
import type { EntryRow, SavedSearch } from '../../server/shapes';
import { FilePick } from '../shared/FilePick';
import { useArchive, useEntry, useGame } from '../shared/queries';
import { FaultNote } from '../shared/states';
import { FindBar } from './FindBar';
import { FindDialogs, type FindDialog } from './FindDialogs';
import { FindResults } from './FindResults';
import { FindStrip } from './FindStrip';
import { Inspector, type Reveal } from './Inspector';
import { ListFoot } from './ListFoot';
import { NothingYet } from './NothingYet';
import { SideLists } from './SideLists';
import { queryOf, useEntries, usePagesInView } from './use-entries';
import { useFindActions } from './use-find-actions';
import { useFindKeys } from './use-find-keys';
import { usePlace } from './use-place';
import { useSavedSearches } from './use-saved-searches';
import { useSearchLine } from './use-search-line';
import { useSelection } from './use-selection';

/** Station Find: the merged tree, the entries in it, and one of them looked at closely. */
export function FindStation({ gameId }: { gameId: number }) {
  const [addressed, goTo] = usePlace();
  const { data: game } = useGame(gameId);
  const { typed, search, type, toggle, go } = useSearchLine(addressed, goTo);
  const [pages, onVisible] = usePagesInView();
  const place = { ...addressed, search };
  const entries = useEntries(gameId, place, pages);
  const selection = useSelection(queryOf(place));
  const { data: entry, error: entryError } = useEntry(gameId, place.selected);
  const searchField = useRef<HTMLInputElement>(null);
  const labelField = useRef<HTMLInputElement>(null);
  const listBox = useRef<HTMLDivElement>(null);
  const files = useRef<HTMLInputElement>(null);
  const [dialog, setDialog] = useState<FindDialog>();
  const [reveal, setReveal] = useState<Reveal & { hit: number }>();
  const router = useRouter();
  const saved = useSavedSearches(gameId);
  const actions = useFindActions(gameId, entry, go);
  const pickFile = () => {
    if (entry !== undefined) files.current?.click();
  };
  useFindKeys({
    searchField,
    labelField,
    hasEntry: entry !== undefined,
    onTray: actions.toggleTray,
    onReplace: pickFile,
  });
  const select = useCallback((row: EntryRow) => go({ selected: { archive: row.archive, n: row.n } }), [go]);
  const goToSaved = ({ place: address }: SavedSearch) => {
    type(new URLSearchParams(address).get('search') ?? '');
    router.push(`/games/${gameId}/find?${address}`);
  };
  const compare: Parameters<typeof ListFoot>[0]['onCompare'] = (left, right) =>
    setDialog({ is: 'compare', left, right });
  const replace = (file: File) => {
    if (entry !== undefined) actions.replace(entry.path, file);
  };

  const archives = game?.archives.filter((archive) => archive.entryCount > 0) ?? [];
  const alone = useArchive(game, place.archive);
  const shown = useArchive(game, entry?.archive ?? place.archive ?? archives[0]?.id);
  if (game === undefined) return null;
  // Games of loose files have entries and no archives.
  if (game.entryCount === 0) return <NothingYet gameId={gameId} archives={game.archives} />;
  return (
    <>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <SideLists
          gameId={gameId}
          place={place}
          go={(next) => go({ ...next, inside: undefined })}
          archives={archives}
          page={entries.page}
          saved={saved.list}
          onSaved={goToSaved}
          onForget={saved.forget}
        />
        <Box ref={listBox} sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column', p: 1.25 }}>
          <FindBar
            gameId={gameId}
            search={{
              value: typed,
              onChange: type,
              archives: archives.map(({ path }) => path),
              saved: saved.list,
              onSaved: goToSaved,
              fieldRef: searchField,
            }}
            place={place}
            alone={alone}
            kinds={entries.page?.kinds}
            go={go}
            toggle={toggle}
          />
          {entries.error !== null && <FaultNote tone="brass">{entries.error.message}</FaultNote>}
          <FindResults
            view={{
              ...{ gameId, entries, place, selection, onVisible },
              onSelect: select,
              onSort: (sort) => go({ sort, order: place.sort === sort && place.order === 'up' ? 'down' : 'up' }),
              onDropFile: (row, file) => actions.replace(row.path, file),
            }}
            chosenHit={reveal?.hit}
            onHit={({ archive, n, at, length, number }) => {
              setReveal({ archive, n, at, length, hit: number });
              // A file that nothing reads has no entry to look at.
              go({ selected: n < 0 ? undefined : { archive, n } });
            }}
            go={go}
            toggle={toggle}
            onShowAll={() => {
              type('');
              go({ folder: '', archive: undefined });
            }}
          />
          <ListFoot
            gameId={gameId}
            place={place}
            entries={entries}
            selection={selection}
            onLabelTable={() => setDialog({ is: 'labels' })}
            onInside={() => setDialog({ is: 'inside' })}
            onCompare={compare}
            onKeep={search.trim() === '' && place.folder === '' ? undefined : () => setDialog({ is: 'keep' })}
          />
        </Box>
        <Inspector
          gameId={gameId}
          entry={entry}
          error={entryError}
          reveal={reveal}
          onGo={(path) => void actions.goToPath(path)}
          onCompare={compare}
          labelRef={labelField}
          onLabelled={() => listBox.current?.querySelector<HTMLElement>('[role=listbox]')?.focus()}
          onTray={actions.toggleTray}
          onReplace={pickFile}
          onInstead={() => setDialog({ is: 'instead' })}
          onRemove={actions.remove}
          onDrop={replace}
        />
        <FilePick pickRef={files} label="The file that replaces the entry" testId="replace-file" onPick={replace} />
      </Box>
      <FindDialogs
        gameId={gameId}
        dialog={dialog}
        onClose={() => setDialog(undefined)}
        list={{ place, entries, selection }}
        entry={entry}
        onKeep={(name) => saved.keep(name, place)}
        onInside={({ id }) => {
          setReveal(undefined);
          go({ inside: id });
        }}
        onInstead={actions.follow}
      />
      {shown !== undefined && (
        <FindStrip gameId={gameId} archive={shown} entry={entry} onSelect={(selected) => go({ selected })} />
      )}
    </>
  );
}
