/** Damaged and hostile input: a clear fault in little time, or an archive that says what is odd; never anything else. */
import fc from 'fast-check';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { FaultError, sayFault } from '../../src/core/faults';
import { compileRecipe, NO_EDITS, openArchive, planRebuild, readEntry, type Recipe } from '../../src/core/recipe';
import { sameCases } from './same-cases';
import type { SampleEntry, SampleFormat } from './sample';
import * as demo from './samples-demo';
import * as packing from './samples-packing';
import * as tables from './samples-tables';
import * as trees from './samples-trees';

const FORMATS: readonly SampleFormat[] = [tables, trees, packing, demo].flatMap((module) => Object.values(module));
const ENTRIES: readonly SampleEntry[] = Array.from({ length: 6 }, (_, i) => ({
  path: `folder${i % 2}/entry${i}.bin`,
  bytes: Uint8Array.from({ length: 300 * i }, (__, k) => (k * k) >> i),
}));
// Far above what it takes, so that a busy machine does not fail it: it catches a hang.
const MOST_MS = 25_000;

/** Opens, reads and replans; anything but a fault is an error of ours. */
async function tryAll(
  format: SampleFormat,
  recipe: Recipe,
  files: readonly { name: string; bytes: Uint8Array }[],
): Promise<void> {
  const start = performance.now();
  try {
    const archive = await openArchive(
      recipe,
      files.map(({ name, bytes }) => bufferSource(bytes, name)),
      { keys: new Map(Object.entries(format.keys ?? {})), limits: { maxSeconds: 4, maxEntryBytes: 1 << 26 } },
    );
    for (let i = 0; i < Math.min(archive.entries.count, 20); i++)
      await collect(readEntry(archive, i)).catch((error: unknown) => {
        if (!(error instanceof FaultError)) throw error;
      });
    await planRebuild(archive, NO_EDITS, { scratch: memoryScratch() });
  } catch (error) {
    if (!(error instanceof FaultError)) throw error;
    expect(sayFault(error.fault).length).toBeGreaterThan(10);
  }
  expect(performance.now() - start).toBeLessThan(MOST_MS);
}

test.each(FORMATS.map((format) => [format.name, format] as const))(
  '%s: flipped, cut and overwritten files',
  async (_, format) => {
    const recipe = compileRecipe(format.recipe);
    const files = await format.make(format.samples ?? ENTRIES);
    const damage = fc.record({
      file: fc.nat(files.length - 1),
      cut: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
      flips: fc.array(fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.integer({ min: 1, max: 255 })), {
        maxLength: 6,
      }),
      // Absurd numbers where counts and offsets stand.
      spike: fc.option(fc.tuple(fc.nat(60), fc.constantFrom(0xff, 0x7f, 0x80, 0))),
    });
    await fc.assert(
      fc.asyncProperty(damage, async ({ file, cut, flips, spike }) => {
        const damaged = files.map(({ name, bytes }, i) => {
          if (i !== file) return { name, bytes };
          const copy = Uint8Array.from(bytes.subarray(0, cut === null ? bytes.length : Math.floor(cut * bytes.length)));
          for (const [place, bits] of flips) if (copy.length > 0) copy[Math.floor(place * (copy.length - 1))]! ^= bits;
          if (spike !== null) copy.fill(spike[1], spike[0], spike[0] + 4);
          return { name, bytes: copy };
        });
        await tryAll(format, recipe, damaged);
      }),
      sameCases(60),
    );
  },
);

test.each(FORMATS.map((format) => [format.name, format] as const))('%s: changed recipes', async (_, format) => {
  const files = await format.make(format.samples ?? ENTRIES);
  const lines = format.recipe.split('\n');
  const swap = fc.record({
    line: fc.nat(lines.length - 1),
    from: fc.constantFrom('u32', 'u8', 'entry', 'row', '0', 'count', 'size', ' as:', ' is:', '{', ')', 'in ', 'head'),
    to: fc.constantFrom(
      'u64',
      'i16',
      'varint',
      '4',
      'row',
      'end',
      'entries',
      '',
      '-1',
      'data(rest)',
      '999999999999',
      'here',
      '}',
    ),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(swap, { minLength: 1, maxLength: 3 }), async (swaps) => {
      const changed = [...lines];
      for (const { line, from, to } of swaps) changed[line] = changed[line]!.replace(from, () => to);
      let recipe: Recipe;
      try {
        recipe = compileRecipe(changed.join('\n'));
      } catch (error) {
        if (!(error instanceof FaultError)) throw error;
        expect(error.fault.line).toBeGreaterThan(0);
        return;
      }
      await tryAll(format, recipe, files);
    }),
    sameCases(80),
  );
});

test.each(FORMATS.map((format) => [format.name, format] as const))(
  '%s: read on the way is read as a whole',
  async (_, format) => {
    const recipe = compileRecipe(format.recipe);
    // A source that never gives more than a few bytes at a time shows what windows get wrong.
    const files = (await format.make(format.samples ?? ENTRIES)).map(({ name, bytes }) => bufferSource(bytes, name));
    const options = { keys: new Map(Object.entries(format.keys ?? {})) };
    const whole = await openArchive(recipe, files, options);
    const pieces = await openArchive(recipe, files, { ...options, limits: { windowBytes: 24 } });
    const facts = ({ entries }: typeof whole) =>
      Array.from({ length: entries.count }, (__, i) => [
        entries.path(i),
        entries.at(i),
        entries.stored(i),
        entries.size(i),
      ]);
    expect(facts(pieces)).toEqual(facts(whole));
    expect(pieces.complaints).toEqual(whole.complaints);
  },
);

const HEAD = `
recipe: trap
title: Trap
revision: 1
numbers: little
`;
const TRAPS: readonly [name: string, recipe: string, bytes: Uint8Array][] = [
  [
    'a tree of pointers that leads in circles',
    `${HEAD}
shapes:
  node:
    - { field: name, as: u8 }
    - { field: nextAt, as: u8 }
    - { field: left, as: node, at: nextAt, when: nextAt < 200 }
    - { field: right, as: node, at: nextAt, when: nextAt < 200 }
    - { field: body, as: data(0) }
regions: [{ region: all, at: 0, holds: node }]
presents: archive
entries: { each: node in all }
`,
    Uint8Array.of(1, 0, 0, 0),
  ],
  [
    'a list whose items take no bytes',
    `${HEAD}
shapes:
  nothing: [{ field: maybe, as: u8, when: false }, { field: body, as: data(0) }]
  all: [{ field: rows, as: 'nothing[until false]' }]
regions: [{ region: all, at: 0, holds: all }]
presents: archive
entries: { each: row in all.rows }
`,
    new Uint8Array(64),
  ],
  [
    'a text of four gigabytes',
    `${HEAD}
shapes:
  all: [{ field: text, as: text(u32, ascii) }, { field: rows, as: 'row[0]' }]
  row: [{ field: body, as: data(0) }]
regions: [{ region: all, at: 0, holds: all }]
presents: archive
entries: { each: row in all.rows }
`,
    Uint8Array.of(255, 255, 255, 255, 0),
  ],
  [
    'a step that never ends',
    `${HEAD}
steps: { spin: { decode: "(bytes) => { for (;;) ; }" } }
shapes:
  all: [{ field: rows, as: 'row[1]' }]
  row: [{ field: body, as: data(1) }]
regions: [{ region: all, at: 0, length: end, through: [spin], holds: all }]
presents: archive
entries: { each: row in all.rows }
`,
    new Uint8Array(8),
  ],
  [
    'a step that eats memory',
    `${HEAD}
steps: { eat: { decode: "(bytes) => { const all = []; for (;;) all.push(new Uint8Array(1e6)); }" } }
shapes:
  all: [{ field: rows, as: 'row[1]' }]
  row: [{ field: body, as: data(1) }]
regions: [{ region: all, at: 0, length: end, through: [eat], holds: all }]
presents: archive
entries: { each: row in all.rows }
`,
    new Uint8Array(8),
  ],
];

test.each(TRAPS)('%s ends in a fault within seconds', async (_, recipe, bytes) => {
  const start = performance.now();
  await expect(openArchive(compileRecipe(recipe), bufferSource(bytes))).rejects.toBeInstanceOf(FaultError);
  expect(performance.now() - start).toBeLessThan(MOST_MS);
});

test('a step sees nothing but its bytes', async () => {
  const recipe = (body: string) => `${HEAD}
steps: { look: { decode: ${JSON.stringify(`(bytes) => { ${body} }`)} } }
shapes:
  all: [{ field: seen, as: text(rest, ascii) }]
  row: [{ field: body, as: data(0) }]
  rows: [{ field: rows, as: 'row[0]' }]
regions:
  - { region: all, at: 0, length: end, through: [look], holds: all }
  - { region: none, at: 0, holds: rows }
presents: archive
entries: { each: row in none.rows }
`;
  const seen = await openArchive(
    compileRecipe(
      recipe(
        'return Uint8Array.from([typeof process, typeof require, typeof fetch, typeof Date, typeof Math.random, typeof globalThis.console, typeof std, typeof os].join(), (c) => c.charCodeAt(0))',
      ),
    ),
    bufferSource(new Uint8Array(4)),
  );
  const text = (seen.regions.get(0)!.column!.get(0) as { get(index: number): unknown }).get(0);
  expect(text).toBe(Array(8).fill('undefined').join());
});

test('an alias that unfolds without end is refused', () => {
  const bomb = `${HEAD}note: &a "x"\nlet: { a: *a }\n`;
  expect(() => compileRecipe(bomb)).toThrow(FaultError);
});
