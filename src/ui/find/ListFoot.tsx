'use client';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type BodyOf, call } from '../shared/api';
import { counted, size } from '../shared/format';
import { useNotice } from '../shared/notices';
import { useGameMutation } from '../shared/queries';
import type { Which } from './CompareDialog';
import { listQuery, type Place } from './use-place';
import type { Entries } from './use-entries';
import type { Selection } from './use-selection';

interface Props {
  readonly gameId: number;
  readonly place: Place;
  readonly entries: Entries;
  readonly selection: Selection;
  readonly onLabelTable: () => void;
  readonly onInside: () => void;
  readonly onCompare: (left: Which, right: Which) => void;
  /** Offered when the list is a search worth keeping. */
  readonly onKeep: (() => void) | undefined;
}

/** The two entries that are chosen, once both have come. */
function pairOf({ count, ranges }: Selection, entries: Entries): [Which, Which] | undefined {
  if (count !== 2) return undefined;
  const [left, right] = ranges.flatMap(([from, to]) => (to - from === 2 ? [from, from + 1] : [from])).map(entries.at);
  return left === undefined || right === undefined ? undefined : [left, right];
}

/** The list, or the selection when that is more than one entry, as it is sent to the server. */
/** A list, or the rows of it that are selected. */
export type ListPart = BodyOf<'POST games/{game}/entries/paths'>;

export function listPart(place: Place, { count, ranges }: Selection): ListPart {
  return { place: listQuery(place), ...(count > 1 ? { ranges } : {}) };
}

/** Under the list: how much it is, and what can be done with all of it or with what is chosen. */
export function ListFoot({ gameId, place, entries, selection, onLabelTable, onInside, onCompare, onKeep }: Props) {
  const say = useNotice();
  const several = selection.count > 1;
  const pair = pairOf(selection, entries);
  const part = listPart(place, selection);
  const tray = useGameMutation(gameId, () => call('POST games/{game}/tray', { game: gameId, body: { addList: part } }));
  const copy = useGameMutation(gameId, () => call('POST games/{game}/entries/paths', { game: gameId, body: part }));
  const put = async () => {
    const { total } = await tray.mutateAsync(undefined);
    say({ tone: 'success', text: `The tray holds ${counted(total, 'entry', 'entries')}.` });
  };
  const copyPaths = async () => {
    const { paths } = await copy.mutateAsync(undefined);
    await navigator.clipboard.writeText(`${paths.join('\n')}\n`);
    const all = several ? selection.count : entries.total;
    const said =
      paths.length < all
        ? `The first ${counted(paths.length, 'path')} of ${counted(all, 'entry', 'entries')} copied; put them into the tray to have all as a list.`
        : `${counted(paths.length, 'path')} copied.`;
    say({ tone: paths.length < all ? 'info' : 'success', text: said });
  };
  const button = { py: 0, px: 0.5, minWidth: 0 } as const;
  return (
    <Box
      className="dim"
      sx={{ pt: 0.75, display: 'flex', gap: 1.5, alignItems: 'center', minHeight: 30, flexWrap: 'wrap' }}
    >
      <span role="status">
        {several
          ? `${counted(selection.count, 'entry', 'entries')} chosen of ${counted(entries.total, 'entry', 'entries')}`
          : `${counted(entries.total, 'entry', 'entries')}, ${size(entries.page?.bytes ?? 0)}`}
      </span>
      {entries.total > 0 && (
        <>
          <Button variant="text" sx={button} disabled={tray.isPending} onClick={() => void put().catch(() => {})}>
            {several ? 'Add selection to tray' : 'Add all to tray'}
          </Button>
          <Button variant="text" sx={button} disabled={copy.isPending} onClick={() => void copyPaths().catch(() => {})}>
            Copy paths
          </Button>
          <Button variant="text" sx={button} onClick={onInside}>
            Look inside…
          </Button>
        </>
      )}
      {pair !== undefined && (
        <Button variant="text" sx={button} onClick={() => onCompare(...pair)}>
          Compare the two
        </Button>
      )}
      {several ? (
        <Button variant="text" sx={button} onClick={selection.clear}>
          Clear selection
        </Button>
      ) : (
        <Button variant="text" sx={button} onClick={onLabelTable}>
          Labels…
        </Button>
      )}
      {onKeep !== undefined && !several && (
        <Button variant="text" sx={button} onClick={onKeep}>
          Save this search
        </Button>
      )}
    </Box>
  );
}
