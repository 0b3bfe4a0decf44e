import { useQuery } from '@tanstack/react-query';
import { act, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { RunAnswer } from '../../server/shapes';
import { useRuns } from '../shared/queries';
import { serve, show } from '../testing/show';
import { RunCard } from './RunCard';
import { useRunEvents } from './use-run-events';

const takeOut = (more: Partial<RunAnswer<'take-out'>> = {}): RunAnswer<'take-out'> => ({
  ...{ id: 3, gameId: 7, kind: 'take-out', title: '2 entries of Gondola Post', state: 'working', unit: 'entries' },
  ...{ done: 1, total: 4, lines: 0, lastLine: null, result: null, fault: null },
  ...{ createdAt: '2026-11-30T06:00:00.000Z', startedAt: '2026-11-30T06:00:00.000Z', endedAt: null },
  ...more,
});

/** Stands for the stream of events of the server. */
class Events {
  static last: Events;
  onmessage?: (event: { data: string }) => void;
  onopen?: () => void;
  constructor() {
    Events.last = this;
  }
  close() {}
  say = (news: object) => act(() => this.onmessage!({ data: JSON.stringify(news) }));
}

let timesOfGame = 0;
function Runs() {
  useRunEvents(7);
  useQuery({ queryKey: ['game', 7], queryFn: () => ++timesOfGame });
  const { data } = useRuns(7);
  return data?.map((run) => <RunCard key={run.id} run={run} />);
}

const news = { id: 3, gameId: 7, state: 'working', done: 3, total: 4, unit: 'entries' };

test('how far a run is comes with the event, and nothing is asked for', async () => {
  globalThis.EventSource = Events as never;
  const asked = serve({ 'GET runs?game=7': () => [takeOut()] });
  show(<Runs />);
  await waitFor(() => expect(screen.getByText(/1 of 4 entries/)).toBeTruthy());
  const before = asked.length;
  Events.last.say(news);
  await waitFor(() => expect(screen.getByText(/3 of 4 entries/)).toBeTruthy());
  // News of another game changes nothing here.
  Events.last.say({ ...news, gameId: 8, done: 4 });
  expect(screen.getByText(/3 of 4 entries/)).toBeTruthy();
  expect(asked).toHaveLength(before);
});

test('a run that begins or ends is asked for by itself; after a gap all are', async () => {
  globalThis.EventSource = Events as never;
  const failures = [{ path: 'a.png', fault: { code: 'checksum-differs' as const, file: 'a.png' } }];
  const sums = { taken: 3, bytes: 2000, skipped: 1, turned: 0, kept: 0, within: 0 };
  const asked = serve({
    'GET runs?game=7': () => [takeOut()],
    'GET runs/3': () => takeOut({ state: 'done', result: { ...sums, failures, folder: '/tmp/out' } }),
    'GET runs/4': () => takeOut({ id: 4, title: 'Another', state: 'waiting' }),
  });
  show(<Runs />);
  await waitFor(() => expect(screen.getByText(/1 of 4 entries/)).toBeTruthy());
  Events.last.say({ ...news, state: 'done' });
  await waitFor(() => expect(screen.getByText('/tmp/out')).toBeTruthy());
  expect(screen.getByText(/checksum does not agree: a.png/)).toBeTruthy();
  expect(screen.getByText(/1 were there already/)).toBeTruthy();
  Events.last.say({ ...news, id: 4, state: 'waiting' });
  await waitFor(() => expect(screen.getByText('Another')).toBeTruthy());
  expect(asked.filter(({ path }) => path === 'runs?game=7')).toHaveLength(1);
  Events.last.say({});
  await waitFor(() => expect(asked.filter(({ path }) => path === 'runs?game=7')).toHaveLength(2));
});

test('the log of a run goes on with its events; one that ended before it was listed still has the game read again', async () => {
  globalThis.EventSource = Events as never;
  serve({
    'GET runs?game=7': () => [takeOut()],
    'GET runs/5': () => takeOut({ id: 5, title: 'Short', state: 'done' }),
    'GET runs/3/log': () => [{ at: '2026-11-30T06:00:01.000Z', text: 'a.png is written as a_.png' }],
  });
  show(<Runs />);
  await waitFor(() => expect(screen.getByText(/1 of 4 entries/)).toBeTruthy());
  expect(screen.queryByRole('button', { name: 'Log' })).toBeNull();
  Events.last.say({ ...news, lines: 1, lastLine: 'a.png is written as a_.png' });
  await userEvent.click(await screen.findByRole('button', { name: 'Log' }));
  await waitFor(() => expect(screen.getByText(/is written as/)).toBeTruthy());
  Events.last.say({ ...news, id: 5, state: 'waiting' });
  await waitFor(() => expect(screen.getByText('Short')).toBeTruthy());
  const before = timesOfGame;
  Events.last.say({ ...news, id: 5, state: 'done' });
  await waitFor(() => expect(timesOfGame).toBeGreaterThan(before));
});

test('a log is read when somebody opens it', async () => {
  const asked = serve({
    'GET runs/3/log': () => [{ at: '2026-11-30T06:00:01.000Z', text: 'a.png is written as a_.png' }],
  });
  show(<RunCard run={takeOut({ state: 'stopped', lines: 1, lastLine: 'a.png is written as a_.png' })} />);
  expect(asked).toEqual([]);
  await userEvent.click(screen.getByRole('button', { name: 'Log' }));
  await waitFor(() => expect(screen.getByText(/is written as/)).toBeTruthy());
  expect(screen.getByRole('button', { name: 'Resume' })).toBeTruthy();
});
