import type { EntryDetails, RunAnswer } from '../../server/shapes';
import { InsteadDialog } from '../change/InsteadDialog';
import { CompareDialog, type Which } from './CompareDialog';
import { InsideDialog } from './InsideDialog';
import { KeepSearchDialog } from './KeepSearchDialog';
import { LabelsDialog } from './LabelsDialog';
import { listPart } from './ListFoot';
import type { Entries } from './use-entries';
import type { Place } from './use-place';
import type { Selection } from './use-selection';

export type FindDialog =
  | { readonly is: 'labels' | 'keep' | 'inside' | 'instead' }
  | { readonly is: 'compare'; readonly left: Which; readonly right: Which };

interface Props {
  readonly gameId: number;
  readonly dialog: FindDialog | undefined;
  readonly onClose: () => void;
  /** What is listed, and what of it is selected. */
  readonly list: { readonly place: Place; readonly entries: Entries; readonly selection: Selection };
  readonly entry: EntryDetails | undefined;
  readonly onKeep: (name: string) => void;
  readonly onInside: (run: RunAnswer) => void;
  readonly onInstead: (drop: number) => void;
}

/** The dialog of Find that is open. */
export function FindDialogs({ gameId, dialog, onClose, list, entry, onKeep, onInside, onInstead }: Props) {
  const { place, entries, selection } = list;
  switch (dialog?.is) {
    case 'labels':
      return <LabelsDialog gameId={gameId} folder={place.folder} onClose={onClose} />;
    case 'inside':
      return (
        <InsideDialog
          gameId={gameId}
          part={listPart(place, selection)}
          count={selection.count > 1 ? selection.count : entries.total}
          onStarted={onInside}
          onClose={onClose}
        />
      );
    case 'instead':
      return entry === undefined ? null : (
        <InsteadDialog gameId={gameId} path={entry.path} onStarted={onInstead} onClose={onClose} />
      );
    case 'compare':
      return <CompareDialog gameId={gameId} left={dialog.left} right={dialog.right} onClose={onClose} />;
    case 'keep':
      return (
        <KeepSearchDialog
          suggestion={[place.folder, place.search].filter((part) => part !== '').join(' ')}
          onKeep={onKeep}
          onClose={onClose}
        />
      );
    case undefined:
      return null;
  }
}
