import { setTimeout as pause } from 'node:timers/promises';
import { bufferSource } from '../../core/bytes';
import { backgroundSource, noteViewing } from './background-source';

const source = backgroundSource(bufferSource(Uint8Array.of(1, 2, 3), 'a file'));

/** Whether a read ends before the next timer fires. */
async function readsImmediately(): Promise<boolean> {
  const order: string[] = [];
  const read = source.read(1, 2).then((bytes) => {
    expect([...bytes]).toEqual([2, 3]);
    order.push('read');
  });
  const turn = pause(0).then(() => order.push('turn'));
  await Promise.all([read, turn]);
  return order[0] === 'read';
}

test('a read is delayed while a user is viewing something, and not before or a second later', async () => {
  expect(await readsImmediately()).toBe(true);
  noteViewing();
  expect(await readsImmediately()).toBe(false);
  await pause(1_000);
  expect(await readsImmediately()).toBe(true);
});
