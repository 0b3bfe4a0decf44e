import { screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { EntryPage } from '../../server/shapes';
import { serve, show } from '../testing/show';
import { FindDialogs } from './FindDialogs';
import { FindResults } from './FindResults';
import type { Place } from './use-place';
import type { Selection } from './use-selection';
import type { ViewProps } from './walking';

// The library of charts is no CommonJS, and nothing here draws one.
jest.mock('../shared/Chart', () => ({ Chart: () => null }));

const place: Place = {
  ...{ search: 'cabin', folder: 'art', archive: undefined, view: 'list', sort: 'path', order: 'up' },
  ...{ inside: undefined, selected: undefined },
};
const selection = { count: 0, ranges: [], cursor: 0 } as unknown as Selection;
const entries = {
  page: {} as EntryPage,
  total: 0,
  error: null,
  at: () => undefined,
} as unknown as ViewProps['entries'];
const nothing = () => {};

test('where nothing matches, everything is one click away', async () => {
  serve({});
  const onShowAll = jest.fn();
  const view: ViewProps = {
    ...{ gameId: 1, entries, place, selection },
    ...{ onSelect: nothing, onVisible: nothing, onSort: nothing, onDropFile: nothing },
  };
  show(
    <FindResults
      view={view}
      chosenHit={undefined}
      onHit={nothing}
      go={nothing}
      toggle={nothing}
      onShowAll={onShowAll}
    />,
  );
  expect(screen.getByText('No entries match')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Show everything' }));
  expect(onShowAll).toHaveBeenCalledTimes(1);
});

test('a search is kept under the name of what it looks for', async () => {
  serve({});
  const onKeep = jest.fn();
  const onClose = jest.fn();
  show(
    <FindDialogs
      gameId={1}
      dialog={{ is: 'keep' }}
      onClose={onClose}
      list={{ place, entries, selection }}
      entry={undefined}
      onKeep={onKeep}
      onInside={nothing}
      onInstead={nothing}
    />,
  );
  const field = await screen.findByRole('textbox', { name: 'Name of the search' });
  expect(field).toHaveProperty('value', 'art cabin');
  await userEvent.type(field, '{Enter}');
  expect(onKeep).toHaveBeenCalledWith('art cabin');
});

test('without a dialog nothing is shown', () => {
  serve({});
  show(
    <FindDialogs
      gameId={1}
      dialog={undefined}
      onClose={nothing}
      list={{ place, entries, selection }}
      entry={undefined}
      onKeep={nothing}
      onInside={nothing}
      onInstead={nothing}
    />,
  );
  expect(screen.queryByRole('dialog')).toBeNull();
});
