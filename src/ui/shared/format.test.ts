import { counted, duration, fileName, folderOf, offset, size } from './format';

test.each([
  [0, '0x0000'],
  [0x1a4, '0x01A4'],
  [0x1a42c00, '0x1A4_2C00'],
])('%d is written %s', (bytes, text) => {
  expect(offset(bytes)).toBe(text);
});

test('sizes, counts and names as people read them', () => {
  expect(size(303)).toBe('303 B');
  expect(size(3_778_288)).toBe('3.78 MB');
  expect(counted(1, 'entry', 'entries')).toBe('1 entry');
  expect(counted(12_408, 'entry', 'entries')).toBe('12,408 entries');
  expect([fileName('a/b/c.png'), folderOf('a/b/c.png'), folderOf('c.png')]).toEqual(['c.png', 'a/b', '']);
});

test.each([
  [4.4, '4 s'],
  [89, '89 s'],
  [90, '2 min'],
  [3600, '1 h'],
  [7500, '2 h 5 min'],
])('%d seconds are %s', (seconds, text) => {
  expect(duration(seconds)).toBe(text);
});
