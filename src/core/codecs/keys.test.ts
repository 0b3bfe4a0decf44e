import { keyBytes, keyCandidates, keysInText, maskKey } from './index';

const KEY = Uint8Array.from({ length: 32 }, (_, i) => i * 7);
const HEX = Buffer.from(KEY).toString('hex');

test.each([
  ['hex', HEX],
  ['hex in groups', HEX.replace(/(.{8})/g, '$1 ')],
  ['hex with colons', HEX.replace(/(..)(?=.)/g, '$1:')],
  ['hex with 0x', HEX.replace(/(..)(?=.)/g, '0x$1, ').replace(/(..)$/, '0x$1')],
  ['upper case over two lines', `${HEX.slice(0, 32).toUpperCase()}\n${HEX.slice(32).toUpperCase()}`],
  ['base64', Buffer.from(KEY).toString('base64')],
  ['base64 for addresses', Buffer.from(KEY).toString('base64url')],
])('reads a key as %s', (_, text) => {
  expect(Buffer.from(keyBytes(text, 'aes-256')).toString('hex')).toBe(HEX);
});

test('reads 32 characters of text as themselves', () => {
  expect(Buffer.from(keyBytes('a phrase of thirty-two letters!!', 'aes-256')).toString()).toBe(
    'a phrase of thirty-two letters!!',
  );
});

test('text: says that hex digits are meant as text', () => {
  expect(Buffer.from(keyBytes(`text:${HEX.slice(0, 32)}`, 'aes-256')).toString()).toBe(HEX.slice(0, 32));
});

test('half a key is refused without being said', () => {
  const half = HEX.slice(0, 32);
  expect(() => keyBytes(half, 'aes-256')).toThrow(
    expect.objectContaining({
      fault: expect.objectContaining({ code: 'key-wrong', found: '16 bytes', hint: 'Was the key copied whole?' }),
    }),
  );
  try {
    keyBytes(half, 'aes-256');
  } catch (error) {
    expect(JSON.stringify((error as { fault: object }).fault)).not.toContain(half.slice(0, 6));
  }
});

test('a mask gives away two bytes at either end, and nothing of a short key', () => {
  expect(maskKey(KEY)).toBe('0007 ···· ···· d2d9');
  expect(maskKey(KEY.subarray(0, 7))).toBe('···· ····');
  expect(keyCandidates('  ')).toEqual([]);
});

test('several keys are read from one text, with the names they have, past comments', () => {
  const hex = '00112233445566778899aabbccddeeff';
  const found = keysInText(`# notes\ncontent = ${hex}\n"voices": "${hex.slice(0, 16)}",\n\n// nothing\n${hex}00\n`);
  const named = (name: string | undefined, length: number) =>
    found.some((key) => key.name === name && key.bytes.length === length);
  expect(named('content', 16)).toBe(true);
  expect(named('voices', 8)).toBe(true);
  expect(named(undefined, 17)).toBe(true);
  expect(found.some(({ name }) => name === 'notes')).toBe(false);
  expect(keysInText(`hex: ${hex}`)[0]).toEqual({ name: undefined, bytes: new Uint8Array(Buffer.from(hex, 'hex')) });
  expect(keysInText('  \n# only a comment\n').filter(({ name }) => name !== undefined)).toEqual([]);
});
