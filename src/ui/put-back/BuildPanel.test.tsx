import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { GameAnswer, PutBackAnswer } from '../../server/shapes';
import { RoleProvider, type Role } from '../access/session';
import { serve, show } from '../testing/show';
import { BuildPanel } from './BuildPanel';

const GAME = { id: 1, name: 'Gondola Post', changeCount: 1 } as GameAnswer;
const PUT_BACK = {
  reads: null,
  ways: null,
  mark: '',
  builds: [],
  installs: [],
  routines: [],
} as unknown as PutBackAnswer;

/** Chooses to rebuild. @returns what the server was asked to keep */
async function rebuildAs(role: Role) {
  localStorage.clear();
  const asked = serve({
    'PUT games/1/test-rules': () => ({ rules: [], how: 'keep', looseFolder: null, stage: null }),
    'GET games/1/mods': () => ({ mods: [] }),
    'GET games/1/routines': () => [],
  });
  show(
    <RoleProvider value={role}>
      <BuildPanel game={GAME} changes={[]} putBack={PUT_BACK} />
    </RoleProvider>,
  );
  await userEvent.setup().click(screen.getByRole('radio', { name: /Rebuild the archives/ }));
  await waitFor(() =>
    expect(screen.getByRole('radio', { name: /Rebuild the archives/ })).toHaveProperty('checked', true),
  );
  return asked.filter(({ method }) => method !== 'GET').map(({ path, body }) => [path, body]);
}

test('how a game reads is remembered for all who work on it', async () => {
  expect(await rebuildAs('full')).toEqual([['games/1/test-rules', { how: 'keep' }]]);
});

test('a user who may only look can choose without an error', async () => {
  expect(await rebuildAs('look')).toEqual([]);
});
