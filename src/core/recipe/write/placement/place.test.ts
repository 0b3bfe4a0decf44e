import fc from 'fast-check';
import type { Recipe, Region } from '../../model';
import type { DataRule } from './data-rule';
import { placeBlocks, type PlaceSetting } from './place';
import type { Block } from './sequence';

const LOOSE: DataRule = {
  order: 'any',
  gaps: 'kept',
  align: 1,
  fill: 0,
  tail: undefined,
  emptyInOrder: true,
  denseParts: false,
};
const region = (part: Partial<Region>) => ({ name: 'rows', line: 4, index: 0, fixedAt: undefined, ...part }) as Region;

function setting(lengths: ReadonlyMap<Block, number>, part: Partial<PlaceSetting> = {}): PlaceSetting {
  return {
    recipe: { regions: [region({})] } as unknown as Recipe,
    layout: 'keep',
    dataRegion: undefined,
    rule: LOOSE,
    lengthOf: (block) => lengths.get(block)!,
    statedStart: () => undefined,
    statedEntryStart: () => undefined,
    placed: () => {},
    ...part,
  };
}

const entry = (out: number, from: number | undefined): Block => ({ kind: 'entry', out, from });
const at = (blocks: readonly [Block, number][], part: Partial<PlaceSetting> = {}) =>
  placeBlocks(
    blocks.map(([block]) => block),
    setting(new Map(blocks), part),
  ).map((placed) => placed.at);

test('what has room stays where it was, gaps and all; what has not moves on, aligned as before', () => {
  expect(
    at([
      [entry(0, 10), 5],
      [entry(1, 20), 5],
      [entry(2, 30), 4],
    ]),
  ).toEqual([10, 20, 30]);
  expect(
    at([
      [entry(0, 10), 15],
      [entry(1, 20), 5],
      [entry(2, 30), 4],
    ]),
  ).toEqual([10, 25, 30]);
  const sectors = { ...LOOSE, align: 8 };
  expect(
    at(
      [
        [entry(0, 8), 9],
        [entry(1, 16), 3],
      ],
      { rule: sectors },
    ),
  ).toEqual([8, 24]);
});

test('nothing lies between entries of a format without gaps, nor in a file that is laid out afresh', () => {
  const blocks: [Block, number][] = [
    [entry(0, 10), 2],
    [entry(1, 20), 5],
  ];
  const dataRegion = region({ index: 1, fixedAt: 10 });
  expect(at(blocks, { rule: { ...LOOSE, gaps: 'none' }, dataRegion })).toEqual([10, 12]);
  expect(at(blocks, { layout: 'afresh', dataRegion })).toEqual([10, 12]);
});

test('entries lie where a reader will look for them', () => {
  expect(
    at(
      [
        [entry(0, 10), 2],
        [entry(1, undefined), 5],
      ],
      { statedEntryStart: (out) => (out === 1 ? 40 : undefined) },
    ),
  ).toEqual([10, 40]);
});

test('a region of a fixed place is refused when what lies before it has grown into it', () => {
  const rows: Block = { kind: 'region', region: 0, part: 0, from: 16, foundLength: 4, align: 1 };
  const recipe = { regions: [region({ fixedAt: 16 })] } as unknown as Recipe;
  expect(
    at(
      [
        [entry(0, 0), 16],
        [rows, 4],
      ],
      { recipe },
    ),
  ).toEqual([0, 16]);
  expect(() =>
    at(
      [
        [entry(0, 0), 17],
        [rows, 4],
      ],
      { recipe },
    ),
  ).toThrow('no room');
});

test('the end is filled up to a multiple', () => {
  const tail: Block = { kind: 'tail', from: 12, step: 16, fill: 0 };
  const [, placed] = placeBlocks(
    [entry(0, 0), tail],
    setting(new Map<Block, number>([[entry(0, 0), 0]]), { lengthOf: () => 21 }),
  );
  expect(placed).toMatchObject({ at: 21, length: 11 });
});

test('no two blocks overlap, whatever they were and have become', () => {
  const block = fc.record({
    gap: fc.integer({ min: 0, max: 20 }),
    before: fc.integer({ min: 0, max: 30 }),
    now: fc.integer({ min: 0, max: 60 }),
  });
  const rule = fc.record({ gaps: fc.constantFrom('none' as const, 'kept' as const), align: fc.constantFrom(1, 4, 16) });
  fc.assert(
    fc.property(
      fc.array(block, { maxLength: 12 }),
      rule,
      fc.constantFrom('keep' as const, 'afresh' as const),
      (blocks, given, layout) => {
        let offset = 0;
        const list = blocks.map(({ gap, before, now }, out): [Block, number] => {
          const from = Math.ceil((offset + gap) / given.align) * given.align;
          offset = from + before;
          return [entry(out, from), now];
        });
        const placed = placeBlocks(
          list.map(([one]) => one),
          setting(new Map(list), { rule: { ...LOOSE, ...given }, layout }),
        );
        let end = 0;
        for (const one of placed) {
          expect(one.at).toBeGreaterThanOrEqual(end);
          if (one.length > 0) expect(one.at % given.align).toBe(0);
          end = one.at + one.length;
        }
      },
    ),
  );
});
