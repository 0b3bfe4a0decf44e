/** A few hundred of the cases and formats at random that `npm run soak` makes by the thousand. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';

const soak = (...args: string[]) =>
  spawnSync(process.execPath, [join(__dirname, '../../.zero-latch/programs/soak.cjs'), ...args], { encoding: 'utf8' });

test('300 damaged archives, changed recipes and odd names are read and written, or refused with a place', () => {
  const { status, stdout } = soak('--cases', '300', '--seed', '20');
  expect(stdout).toContain('300 cases');
  expect({ status, stdout }).toMatchObject({ status: 0 });
  // Not all are refused at the door.
  for (const kind of ['archive', 'recipe', 'names']) expect(stdout).toMatch(new RegExp(`\\d+  ${kind}: done`));
});

test('150 formats made by chance are read, proved and edited as their own strict readers say', () => {
  const { status, stdout } = soak('--formats', '150', '--seed', '1');
  expect({ status, stdout }).toMatchObject({ status: 0 });
  // At most a tenth of them refuses an edit.
  const done = Number(/(\d+)  format: done/.exec(stdout)?.[1]);
  expect(done).toBeGreaterThanOrEqual(135);
});

test('a case that ends as none may is told with how to run it again, and fails the run', () => {
  const { status, stdout } = soak('--cases', '3', '--broken-at', '1');
  expect(stdout).toContain('--one 1');
  expect(status).toBe(1);
});
