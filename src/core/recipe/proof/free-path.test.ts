import type { EntryTable } from '../read/entry-table';
import { freePath, freePathInNewFolder } from './free-path';

const table = (...paths: string[]) =>
  ({ count: paths.length, path: (i: number) => paths[i]!, isNamed: () => true }) as unknown as EntryTable;

test('a path beside another is as long as that one, and nobody has it', () => {
  expect(freePath(table('maps/hut.map'), 0)).toBe('maps/huq.map');
  expect(freePath(table('maps/hut.map', 'MAPS/HUQ.MAP'), 0)).toBe('maps/hux.map');
  expect(freePath(table('a'), 0)).toBe('q');
});

test('a path in a new folder is no longer either: its field may be full', () => {
  expect(freePathInNewFolder(table('maps/hut.map'), 0)).toBe('mapq/hut.map');
  expect(freePathInNewFolder(table('hut.map'), 0)).toBe('q/t.map');
  expect(freePathInNewFolder(table('00000000012'), 0)).toHaveLength('00000000012'.length);
  // There is no room for a folder in a name of one letter.
  expect(freePathInNewFolder(table('a'), 0)).toBe('q/a');
});

test('a folder that is there in other letters is not new', () => {
  expect(freePathInNewFolder(table('maps/hut.map', 'MAPQ/owl.map'), 0)).toBe('mapx/hut.map');
});

test('where entries have no names, any path will do', () => {
  const nameless = { ...table('nameless/000000'), isNamed: () => false } as EntryTable;
  expect(freePath(nameless, 0)).toMatch(/^added\/entry-.\.bin$/);
});
