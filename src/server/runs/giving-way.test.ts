import { setTimeout as pause } from 'node:timers/promises';
import { bufferSource } from '../../core/bytes';
import { givingWay, noticeLook } from './giving-way';

const source = givingWay(bufferSource(Uint8Array.of(1, 2, 3), 'a file'));

/** Whether a read ends before anything else gets its turn. */
async function readsAtOnce(): Promise<boolean> {
  const order: string[] = [];
  const read = source.read(1, 2).then((bytes) => {
    expect([...bytes]).toEqual([2, 3]);
    order.push('read');
  });
  const turn = pause(0).then(() => order.push('turn'));
  await Promise.all([read, turn]);
  return order[0] === 'read';
}

test('a read waits while somebody looks, and not before or long after', async () => {
  expect(await readsAtOnce()).toBe(true);
  noticeLook();
  expect(await readsAtOnce()).toBe(false);
  await pause(1_000);
  expect(await readsAtOnce()).toBe(true);
});
