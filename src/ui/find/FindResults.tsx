import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ComponentProps } from 'react';
import { Empty } from '../shared/states';
import { ContactSheet } from './ContactSheet';
import { EntryList } from './EntryList';
import { InsideHits } from './InsideHits';
import { Overview } from './Overview';
import type { Place } from './use-place';
import type { ViewProps } from './walking';

interface Props {
  readonly view: ViewProps;
  /** The hit of a search inside entries that is looked at. */
  readonly chosenHit: number | undefined;
  readonly onHit: ComponentProps<typeof InsideHits>['onHit'];
  readonly go: (next: Partial<Place>) => void;
  /** Adds a word to the search, or takes it out. */
  readonly toggle: (word: string) => void;
  readonly onShowAll: () => void;
}

/** What was found, in the view that was chosen. */
export function FindResults({ view, chosenHit, onHit, go, toggle, onShowAll }: Props) {
  const { gameId, place, entries } = view;
  if (place.inside !== undefined)
    return <InsideHits gameId={gameId} run={place.inside} chosen={chosenHit} onHit={onHit} />;
  if (entries.page !== undefined && entries.total === 0 && entries.error === null)
    return (
      <Box sx={{ flex: 1 }}>
        <Empty title="No entries match" actions={<Button onClick={onShowAll}>Show everything</Button>}>
          No entry matches all of these words. Try fewer.
        </Empty>
      </Box>
    );
  switch (place.view) {
    case 'overview':
      return (
        <Overview gameId={gameId} place={place} go={go} onNarrow={toggle} onSelect={(selected) => go({ selected })} />
      );
    case 'list':
      return <EntryList {...view} />;
    case 'sheet':
      return <ContactSheet {...view} />;
  }
}
