import { parseExpression } from './expression';

test('a hyphen between words belongs to the name, with spaces it subtracts', () => {
  expect(parseExpression('aes-256-cbc')).toEqual({ kind: 'name', name: 'aes-256-cbc' });
  expect(parseExpression('size - 4')).toMatchObject({ kind: 'binary', operator: '-' });
});

test('products bind tighter than sums, sums tighter than comparisons', () => {
  expect(parseExpression('1 + 2 * 3 == 7')).toMatchObject({
    operator: '==',
    left: { operator: '+', right: { operator: '*' } },
  });
});

test('calls take values by place and by name', () => {
  expect(parseExpression('aes-256-cbc(content, iv: zeros(16))')).toMatchObject({
    kind: 'call',
    name: 'aes-256-cbc',
    args: [{ name: 'content' }],
    named: { iv: { kind: 'call', name: 'zeros' } },
  });
});

test.each([
  ['1 +', 'the end'],
  ['row[', 'the end'],
  ['a b', '"b" at column 3'],
  ['§', '"§" at column 1'],
  ['f(1', 'the end'],
])('refuses %s and says where', (text, found) => {
  expect(() => parseExpression(text)).toThrow(
    expect.objectContaining({ fault: expect.objectContaining({ code: 'recipe-invalid', found }) }),
  );
});

test('refuses nesting that would exhaust the stack', () => {
  expect(() => parseExpression('('.repeat(5000) + '1' + ')'.repeat(5000))).toThrow('is not an expression');
});
