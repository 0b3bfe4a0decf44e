import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { createRef } from 'react';
import { Refusal, serve, show } from '../testing/show';
import { archive, game, key } from '../testing/samples';
import { KeysPanel } from './KeysPanel';

const LOCKED = archive({ state: 'locked', slots: { content: 'aes-256' }, entryCount: 0 });

const panel = (more: Parameters<typeof game>[0], runs: Parameters<typeof KeysPanel>[0]['runs'] = []) =>
  show(<KeysPanel game={game(more)} runs={runs} fieldRef={createRef()} />);

test('what is locked is listed by the key it wants, with the archives that want it', () => {
  serve({});
  panel({ archives: [LOCKED, archive({ ...LOCKED, id: 8, path: 'core-spring.hold' })] });
  expect(screen.getByText(/for “content”/).textContent).toContain('core.hold, core-spring.hold');
  expect(screen.getByRole('button', { name: 'Try it' })).toHaveProperty('disabled', true);
});

test('a pasted key is sent with Enter, and does not stay on the page', async () => {
  const asked = serve({ 'POST games/1/keys': () => ({ ...RUN, id: 40, state: 'waiting' }) });
  panel({ archives: [LOCKED] });
  const field = screen.getByRole('textbox', { name: 'Key' });
  await userEvent.type(field, '95da0490{Enter}');
  await waitFor(() => expect(asked.filter(({ method }) => method === 'POST')).toHaveLength(1));
  expect(asked.find(({ method }) => method === 'POST')!.body).toEqual({ text: '95da0490' });
  await waitFor(() => expect(field).toHaveProperty('value', ''));
});

test('a key that is refused at once says why', async () => {
  serve({ 'POST games/1/keys': () => new Refusal(400, 'key-wrong', 'A key of 20 bytes fits no archive.') });
  panel({ archives: [LOCKED] });
  await userEvent.type(screen.getByRole('textbox', { name: 'Key' }), 'ab');
  await userEvent.click(screen.getByRole('button', { name: 'Try it' }));
  expect(await screen.findByText('A key of 20 bytes fits no archive.')).toBeTruthy();
});

test('while the folder is scanned no key is tried', async () => {
  const asked = serve({});
  panel({ archives: [LOCKED] }, [{ ...RUN, kind: 'scan', state: 'working', result: null }]);
  await userEvent.type(screen.getByRole('textbox', { name: 'Key' }), 'ab{Enter}');
  expect(screen.getByRole('button', { name: 'After the scan' })).toHaveProperty('disabled', true);
  expect(asked).toEqual([]);
});

test('a key says what it opens, and is forgotten with one click', async () => {
  const asked = serve({ 'DELETE games/1/keys/3': () => null });
  panel({ keys: [key(), key({ id: 4, name: null, opens: [], build: null, mask: 'e1e9…cd90' })] });
  expect(screen.getByText('opens core.hold')).toBeTruthy();
  expect(screen.getByText('opens nothing now')).toBeTruthy();
  expect(screen.getByText('Nothing is locked.')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Forget the key 95da…9b0d' }));
  await waitFor(() => expect(asked[0]).toMatchObject({ method: 'DELETE', path: 'games/1/keys/3' }));
});

const RUN: Parameters<typeof KeysPanel>[0]['runs'][number] = {
  ...{ id: 39, gameId: 1, kind: 'unlock', title: 'Trying a key', state: 'done', done: 0, total: 0, unit: 'entries' },
  ...{ lines: 0, lastLine: null, result: null, fault: null, createdAt: '2026-12-01T08:00:00.000Z' },
  ...{ startedAt: null, endedAt: null },
};
