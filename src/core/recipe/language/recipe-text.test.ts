import { compileRecipe } from '../compile/compile';
import { quoteCalls } from './quote-calls';
import { parseRecipeText } from './recipe-text';

test.each([
  ['{ as: text(u16, utf-8), is: entry.path }', '{ as: "text(u16, utf-8)", is: entry.path }'],
  ['- { holds: row[head.count] }', '- { holds: "row[head.count]" }'],
  ['through: [aes-256-cbc(content, iv: head.iv), zlib]', 'through: ["aes-256-cbc(content, iv: head.iv)", zlib]'],
  ['path: lower(row.path) # a comment (with brackets)', 'path: "lower(row.path)" # a comment (with brackets)'],
  ['match: { at: 0, bytes: "A(B" }', 'match: { at: 0, bytes: "A(B" }'],
  ['methods: { 0: [], 1: zlib }', 'methods: { 0: [], 1: zlib }'],
])('reads %s as it looks', (text, quoted) => {
  expect(quoteCalls(text)).toBe(quoted);
});

const GOOD = `recipe: tiny
title: Tiny archive
revision: 1
numbers: little
match: { at: 0, bytes: TINY }
shapes:
  header:
    - { field: magic, as: ascii(4), must: TINY }
    - { field: count, as: u32, is: count(entries) }
  row:
    - { field: name, as: ascii(8), is: entry.path }
    - { field: at, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: table, at: 8, holds: row[head.count] }
  - { region: data, holds: entries }
presents: archive
entries: { each: row in table, path: row.name, at: row.at, stored: row.size }
`;

test('a small recipe compiles', () => {
  expect(compileRecipe(GOOD)).toMatchObject({ id: 'tiny', readingOrder: [0, 1] });
});

test.each([
  ['an unknown word', GOOD.replace('field: count', 'feeld: count'), 9],
  ['an unknown kind', GOOD.replace('as: u32, is: entry.at', 'as: u33, is: entry.at'), 12],
  ['a formula that is none', GOOD.replace('is: entry.at', 'is: entry.ate'), 12],
  ['a field that is not read yet', GOOD.replace('as: ascii(4), must', 'as: ascii(count), must'), 8],
  ['a region nobody described', GOOD.replace('row[head.count]', 'row[hat.count]'), 16],
  ['a step nobody knows', GOOD.replace('stored: row.size', 'stored: row.size, through: [squash]'), 19],
  ['broken YAML', GOOD.replace('regions:', 'regions: ]'), 14],
])('%s is refused with its line', (_, text, line) => {
  expect(() => compileRecipe(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-invalid', line }) }),
  );
});

test('regions that need each other are told', () => {
  const text = GOOD.replace('region: head, at: 0', 'region: head, at: count(table)').replace('at: 8', 'at: head.count');
  expect(() => compileRecipe(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-circular' }) }),
  );
});

test('aliases cannot blow a text up', () => {
  expect(() => parseRecipeText('a: &a [x, x]\nb: &b [*a, *a]\nc: [*b, *b]')).toThrow();
});
