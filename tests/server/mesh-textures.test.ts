/** Meshes name their pictures as their engine looks for them: with other endings, and backslashes. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { entryDetails } from '../../src/server/entries';
import { findWinner } from '../../src/server/content';
import { meshFileOf } from '../../src/server/forms';
import { addGame } from '../../src/server/games';
import { md3 } from '../md3-sample';
import { ended, games, settled, withWorker } from './support';

withWorker();

test('a picture is found under the ending that the game has it in, and goes along', async () => {
  const folder = join(games, 'mesh-game');
  mkdirSync(join(folder, 'models'), { recursive: true });
  // The mesh says models/cabin.tga.
  writeFileSync(join(folder, 'models/cabin.md3'), md3(true));
  const picture = await sharp({ create: { width: 4, height: 4, channels: 3, background: '#208040' } })
    .jpeg()
    .toBuffer();
  writeFileSync(join(folder, 'models/cabin.jpg'), picture);
  const { game, run } = await addGame({ folder });
  expect((await ended(run.id)).state).toBe('done');
  await settled(game.id);
  const { archive, n } = await findWinner(game.id, 'models/cabin.md3');
  const details = await entryDetails(game.id, archive, n);
  expect(details.kind).toBe('mesh');
  expect(details.facts).toMatchObject({
    materials: [{ textures: [{ path: 'models/cabin.jpg', there: true }] }, { textures: [] }],
  });
  const file = { path: 'models/cabin.md3', bytes: md3(true) };
  const { bytes } = await meshFileOf(game.id, file, { as: 'glb', textures: 'inside' });
  const length = Buffer.from(bytes).readUInt32LE(12);
  const gltf = JSON.parse(Buffer.from(bytes.subarray(20, 20 + length)).toString()) as { images: unknown[] };
  expect(gltf.images).toHaveLength(1);
});
