/** What every archive format has to hold, whoever wrote the file: opened, proven, changed in every layout, read again. */
import fc from 'fast-check';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { sayFault } from '../../src/core/faults';
import {
  compileRecipe,
  LAYOUTS,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  type Archive,
  type Edits,
  type Plan,
  type Recipe,
} from '../../src/core/recipe';
import { sameCases } from './same-cases';
import type { SampleEntry, SampleFormat } from './sample';

const ENTRIES: readonly SampleEntry[] = [
  { path: 'cabins/red.png', bytes: Buffer.from('a red cabin '.repeat(40)) },
  { path: 'cabins/blue.png', bytes: Uint8Array.from({ length: 3000 }, (_, i) => (i * 7919) >> 3) },
  { path: 'words/en/menu.txt', bytes: Buffer.from('Mind the gap between the cabin and the valley.') },
  { path: 'empty.bin', bytes: new Uint8Array(0) },
  { path: 'words/en/signs.txt', bytes: Buffer.from('sign '.repeat(900)) },
];

async function openSample(
  format: SampleFormat,
  recipe: Recipe,
  files: readonly { name: string; bytes: Uint8Array }[],
  names: readonly string[] = [],
) {
  return openArchive(
    recipe,
    files.map(({ name, bytes }) => bufferSource(bytes, name)),
    {
      keys: new Map(Object.entries(format.keys ?? {})),
      names: format.hashed === true ? names : [],
    },
  );
}

async function contents(archive: Archive): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (let i = 0; i < archive.entries.count; i++)
    found.set(archive.entries.path(i), Buffer.from(await collect(readEntry(archive, i))).toString('hex'));
  return found;
}

const expected = (entries: readonly SampleEntry[]) =>
  new Map(entries.map(({ path, bytes }) => [path, Buffer.from(bytes).toString('hex')]));

const sorted = (map: Map<string, string>) => [...map].sort(([a], [b]) => (a < b ? -1 : 1));

async function written(plan: Plan): Promise<{ name: string; bytes: Uint8Array }[]> {
  const files: { name: string; bytes: Uint8Array }[] = [];
  for (const volume of plan.volumes) files.push({ name: volume.name, bytes: await collect(volumeBytes(volume)) });
  return files;
}

/** Paths short enough for every format, in a few folders. */
const someEntries = fc.uniqueArray(
  fc.record({
    path: fc
      .tuple(fc.constantFrom('', 'a/', 'a/b/', 'c/'), fc.stringMatching(/^[a-z]{1,8}$/))
      .map(([folder, name]) => `${folder}${name}`),
    bytes: fc.oneof(
      fc.uint8Array({ maxLength: 2500 }),
      fc
        .tuple(fc.integer({ min: 0, max: 255 }), fc.nat(3000))
        .map(([byte, length]) => new Uint8Array(length).fill(byte)),
    ),
  }),
  { selector: ({ path }) => path, minLength: 1, maxLength: 7 },
);

/** Opens, proves, and changes archives of a format in every way there is. */
export function checkFormat(format: SampleFormat): void {
  const samples = format.samples ?? ENTRIES;
  const some = format.some ?? someEntries;
  const recipe = compileRecipe(format.recipe);

  test('opens, and every formula agrees', async () => {
    const archive = await openSample(
      format,
      recipe,
      await format.make(samples),
      samples.map(({ path }) => path),
    );
    expect(archive.complaints.map(sayFault)).toEqual([]);
    expect(sorted(await contents(archive))).toEqual(sorted(expected(samples)));
  });

  test('proves whole', async () => {
    const archive = await openSample(
      format,
      recipe,
      await format.make(samples),
      samples.map(({ path }) => path),
    );
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(
      [proof.bytes, proof.formulas, proof.identical, proof.changed].map(({ first }) => first && sayFault(first)),
    ).toEqual([undefined, undefined, undefined, undefined]);
    expect(proof.bytes.explained).toBe(proof.bytes.total);
    expect(proof.formulas.agree).toBe(proof.formulas.total);
    expect(proof.formulas.total).toBeGreaterThan(0);
    expect(proof.identical.same).toBe(true);
    expect(proof.changed).toMatchObject({ equal: samples.length, tested: samples.length });
  });

  test('holds what was meant after any edit in any layout', async () => {
    await fc.assert(
      fc.asyncProperty(
        some,
        some,
        fc.nat(),
        fc.constantFrom(...LAYOUTS.filter((layout) => format.ordered !== true || layout !== 'append')),
        async (before, others, seed, layout) => {
          const archive = await openSample(
            format,
            recipe,
            await format.make(before),
            before.map(({ path }) => path),
          );
          const wanted = expected(layout === 'patch' ? [] : before);
          const replace = new Map<number, ReturnType<typeof bufferSource>>();
          const remove = new Set<number>();
          for (let i = 0; i < archive.entries.count; i++) {
            const path = archive.entries.path(i);
            const turn = (seed + i) % 3;
            if (turn === 0) {
              const other = others[i % others.length]!.bytes;
              const bytes = format.fit?.(path, other) ?? other;
              replace.set(i, bufferSource(bytes));
              wanted.set(path, Buffer.from(bytes).toString('hex'));
            } else if (turn === 1 && format.removes === true && (layout !== 'patch' || format.marks === true)) {
              remove.add(i);
              wanted.delete(path);
            }
          }
          const add =
            format.grows === true ? others.filter(({ path }) => !before.some((one) => one.path === path)) : [];
          for (const { path, bytes } of add) wanted.set(path, Buffer.from(bytes).toString('hex'));
          const edits: Edits = {
            ...NO_EDITS,
            replace,
            remove,
            add: add.map(({ path, bytes }) => ({ path, bytes: bufferSource(bytes) })),
          };
          const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
          const files = await written(plan);
          format.judge?.(files, wanted);
          const again = await openSample(format, recipe, files, [...wanted.keys()]);
          expect(again.complaints.map(sayFault)).toEqual([]);
          expect(sorted(await contents(again))).toEqual(sorted(wanted));
          const proof = await prove(again, { scratch: memoryScratch() });
          expect(proof.formulas.first && sayFault(proof.formulas.first)).toBeUndefined();
          expect(proof.identical.first && sayFault(proof.identical.first)).toBeUndefined();
        },
      ),
      sameCases(25),
    );
  });
}
