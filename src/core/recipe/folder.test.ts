import fc from 'fast-check';
import { bufferSource, collect, memoryScratch } from '../bytes';
import { compileRecipe, NO_EDITS, openArchive, planRebuild, prove, readEntry, volumeBytes } from '.';

const TEXT = `
recipe: loose
title: Loose files
revision: 1
numbers: little
match: { at: 0, bytes: SEAL }
volumes: { main: "{name}", files: "**" }
shapes: { head: [{ field: mark, as: ascii(4), must: SEAL }, { field: key, as: bytes(5) }] }
regions: [{ region: head, at: 0, holds: head }]
presents: folder
entries:
  each: file in files
  through: [{ when: 'extension(file.path) == "bin"', use: "xor(head.key, first: 16)" }]
`;
const KEY = Uint8Array.of(9, 1, 200, 77, 3);
const scrambled = (path: string, bytes: Uint8Array) =>
  bytes.map((byte, i) => (path.endsWith('.bin') && i < 16 ? byte ^ KEY[i % 5]! : byte));

const files = fc.uniqueArray(
  fc.record({
    path: fc.stringMatching(/^([a-z]{1,4}\/){0,2}[a-z]{1,6}\.(bin|txt)$/),
    bytes: fc.uint8Array({ maxLength: 60 }),
  }),
  { selector: ({ path }) => path, minLength: 1, maxLength: 8 },
);

test('files of a folder are read plain; one that changes is scrambled again, and no other is touched', async () => {
  await fc.assert(
    fc.asyncProperty(files, fc.nat(), fc.uint8Array({ maxLength: 80 }), async (given, pick, fresh) => {
      const main = bufferSource(Buffer.concat([Buffer.from('SEAL'), KEY]), 'game/seal.dat');
      const sources = given.map(({ path, bytes }) => bufferSource(scrambled(path, bytes), `game/${path}`));
      const archive = await openArchive(compileRecipe(TEXT), [main, ...sources]);
      expect(archive.complaints).toEqual([]);
      for (const [n, { path, bytes }] of given.entries()) {
        expect(archive.entries.path(n)).toBe(path);
        expect(await collect(readEntry(archive, n))).toEqual(new Uint8Array(bytes));
      }
      const n = pick % given.length;
      const scratch = memoryScratch();
      const edits = { ...NO_EDITS, replace: new Map([[n, bufferSource(fresh, 'fresh')]]) };
      const plan = await planRebuild(archive, edits, { scratch });
      const made = await Promise.all(plan.volumes.map((volume) => collect(volumeBytes(volume))));
      expect(plan.volumes.map(({ name }) => name)).toEqual(['seal.dat', ...given.map(({ path }) => path)]);
      for (const [i, { path, bytes }] of given.entries())
        expect(made[i + 1]).toEqual(new Uint8Array(scrambled(path, i === n ? fresh : bytes)));
      expect((await prove(archive, { scratch })).identical.same).toBe(true);
    }),
    { numRuns: 60 },
  );
});

test('a folder takes no new files and loses none, and needs a set with every file', async () => {
  const main = bufferSource(Buffer.concat([Buffer.from('SEAL'), KEY]), 'seal.dat');
  const archive = await openArchive(compileRecipe(TEXT), [main, bufferSource(Buffer.from('x'), 'a.txt')]);
  const remove = { ...NO_EDITS, remove: new Set([0]) };
  await expect(planRebuild(archive, remove, { scratch: memoryScratch() })).rejects.toMatchObject({
    fault: { code: 'cannot-add' },
  });
  expect(() => compileRecipe(TEXT.replace(', files: "**"', ''))).toThrow(/every file|files/);
  expect(() => compileRecipe(TEXT.replace('presents: folder', 'presents: archive'))).toThrow();
});
