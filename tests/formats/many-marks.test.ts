/** A region is searched for by its mark: a file made of nothing but marks is refused in time. */
import { join } from 'node:path';
import { bufferSource } from '../../src/core/bytes';
import { openArchive } from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';

test('a file of nothing but the marks of a footer is refused, with what the first candidate lacks', async () => {
  const recipe = await loadRecipe(join(__dirname, '..', '..', 'recipes', 'zip-archive.yaml'));
  const bytes = Buffer.alloc(8 << 20, 'PK\x05\x06', 'latin1');
  const start = process.cpuUsage().user;
  await expect(openArchive(recipe, bufferSource(bytes, 'marks.zip'))).rejects.toMatchObject({
    fault: { region: 'foot', offset: expect.any(Number), expected: expect.any(String) },
  });
  expect((process.cpuUsage().user - start) / 1e6).toBeLessThan(5);
});
