import { drawTileMap, guessTileMap, readTileMap, type TileSheet } from './tile-map';

const YARD = {
  size: { x: 9 },
  width: 3,
  height: 2,
  layers: [
    { name: 'ground', data: [1, 1, 2, 2, 1, 1] },
    { name: 'things', data: [0, 3, 0, 0, 0, 9] },
    { name: 'people', objects: [] },
  ],
};
const RULE = { width: '/width', height: '/height', layers: '/layers', data: '/data', name: '/name' };

/** Four tiles of one pixel: red, green, blue half seen, and nothing. */
const SHEET: TileSheet = {
  pixels: Uint8Array.of(255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 128, 0, 0, 0, 0),
  width: 2,
  height: 2,
  tile: [1, 1],
  first: 1,
};

test.each([
  ['layers in a list', YARD, RULE],
  ['one layer', { w: 2, h: 1, tiles: [5, 6] }, { width: '/w', height: '/h', data: '/tiles' }],
  [
    'rows in lists',
    {
      cols: 2,
      rows: 2,
      'a/b': [
        [1, 2],
        [3, 4],
      ],
    },
    { width: '/cols', height: '/rows', data: '/a~1b' },
  ],
])('a map is guessed and read: %s', (_, value, rule) => {
  expect(guessTileMap(value)).toEqual(rule);
  const map = readTileMap(value, rule, 'yard.json');
  for (const { tiles } of map.layers) expect(tiles).toHaveLength(map.width * map.height);
});

test.each([{ width: 3, height: 2, data: [1] }, { data: [1] }, [1, 2], 'text', null])('%j is no map', (value) => {
  expect(guessTileMap(value)).toBeUndefined();
});

test('what is not as the rule says is told with its place', () => {
  const fault = (value: unknown, rule = RULE) => {
    try {
      readTileMap(value, rule, 'yard.json');
    } catch (error) {
      return (error as { fault: object }).fault;
    }
    return undefined;
  };
  const layer = (data: unknown) => ({ ...YARD, layers: [{ data }] });
  expect(fault(layer([1, 2]))).toMatchObject({ field: '/layers/0/data', expected: '6 tiles, 3 × 2', found: '2' });
  expect(fault(layer([1, 2, 3, 4, 5, 'x']))).toMatchObject({ field: '/layers/0/data/5', found: '"x"' });
  expect(fault({ ...YARD, width: 'wide' })).toMatchObject({ field: '/width', found: '"wide"' });
  expect(fault({ ...YARD, layers: [] })).toMatchObject({ field: '/layers' });
  expect(fault({ ...YARD, layers: [{}] })).toMatchObject({ expected: 'a list of tiles in one layer at least' });
  expect(fault({ ...YARD, width: 1e6, height: 1e6 })).toMatchObject({ code: 'limit-reached' });
});

test('layers lie over each other, and tiles without a picture are counted', () => {
  const map = readTileMap(YARD, RULE, 'yard.json');
  const drawn = drawTileMap(map, SHEET);
  expect(drawn).toMatchObject({ width: 3, height: 2, unknown: 1 });
  const pixel = (i: number) => [...drawn.pixels.subarray(i * 4, i * 4 + 4)];
  expect(pixel(0)).toEqual([255, 0, 0, 255]);
  expect(pixel(2)).toEqual([0, 255, 0, 255]);
  // Blue, half seen, over red.
  expect(pixel(1)).toEqual([127, 0, 128, 255]);
});
