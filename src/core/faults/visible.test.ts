import { sayFault, visible } from '.';

test.each([
  ['an escape', 'a\u001b[31mred', 'a\\u{1B}[31mred'],
  ['a line end', 'a\nb\r', 'a\\u{A}b\\u{D}'],
  ['a mark that turns the direction', 'fox\u202egnp.exe', 'fox\\u{202E}gnp.exe'],
  ['a second set of controls', 'a\u009bm', 'a\\u{9B}m'],
])('%s stands as its code', (_, text, shown) => {
  expect(visible(text)).toBe(shown);
});

test('letters of any script and pictures made of several stay', () => {
  const text = 'Ελληνικά עברית 日本語 👩‍🚀 e\u0301';
  expect(visible(text)).toBe(text);
});

test('what a stranger named is never sent raw in a sentence', () => {
  const said = sayFault({ code: 'cut-short', file: 'a\u001b[2J.bin', entry: 'b\nNote: all is well', found: '\u202e' });
  expect(said).not.toMatch(/[\u0000-\u001f\u202e]/);
  expect(said).toContain('\\u{1B}[2J.bin');
});
