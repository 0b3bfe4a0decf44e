import { CancelledError, faultOf, FormatError, hexBytes, isFaultError, LimitError, sayFault } from './index';

test('a fault says what, where, expected, found and what to try', () => {
  const sentence = sayFault({
    code: 'must-differs',
    file: 'core.hold',
    recipe: 'hold-archive',
    line: 8,
    region: 'head',
    field: 'magic',
    offset: 0x1a4,
    expected: '"HOLD"',
    found: '"HOLE"',
    hint: 'Try another recipe.',
  });
  expect(sentence).toBe(
    'A field is not what it has to be: core.hold, recipe hold-archive line 8, region head, field magic at 0x1A4: expected "HOLD", found "HOLE". Try another recipe.',
  );
});

test('a key that does not fit is told by the bytes that should stand there', () => {
  const fault = {
    code: 'key-wrong',
    region: 'index',
    field: 'mark',
    offset: 0x20,
    expected: '"REEL"',
    found: '9C 04 7E 11',
  } as const;
  expect(sayFault(fault)).toBe(
    'This key does not fit: mark at 0x20 of the unlocked index should read "REEL" and reads 9C 04 7E 11.',
  );
});

test.each([
  ['ENOENT', 'not-found'],
  ['ENOSPC', 'disk-full'],
  ['EACCES', 'not-allowed'],
  ['EROFS', 'read-only'],
  ['EBUSY', 'in-use'],
])('the system’s %s becomes %s, with what to do', (code, fault) => {
  const found = faultOf(Object.assign(new Error('x'), { code, path: '/somewhere' }));
  expect(found).toMatchObject({ code: fault, file: '/somewhere' });
  expect(found.hint).toBeDefined();
});

test('facts that are known stay when more are added', () => {
  const error = new FormatError({ code: 'cut-short', offset: 3 }).with({ offset: 9, file: 'a' });
  expect(error).toBeInstanceOf(FormatError);
  expect(error.fault).toEqual({ code: 'cut-short', offset: 3, file: 'a' });
});

test('errors are told apart by class and by fault', () => {
  expect(new LimitError({ code: 'limit-reached' })).not.toBeInstanceOf(FormatError);
  expect(new CancelledError().fault.code).toBe('stopped');
  expect(isFaultError(new Error('x'))).toBe(false);
  expect(hexBytes(Uint8Array.of(0x9c, 4, 0x7e, 0x11), 3)).toBe('9C 04 7E …');
});
