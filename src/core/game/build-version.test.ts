import { isProgram, isVersionFile, versionInProgram, versionOfFile } from './index';

test.each([
  ['version.txt', '1.4.2\n', '1.4.2'],
  ['build_info.json', '{"build": "2024.3.1-rc2"}', '2024.3.1-rc2'],
  ['version', 'v20114', 'v20114'],
])('%s tells its version', (path, text, version) => {
  expect(isVersionFile(path)).toBe(true);
  expect(versionOfFile(path, text)?.version).toBe(version);
});

test('a readme or a picture is no version file', () => {
  for (const path of ['readme.txt', 'conversion.txt', 'builder/x.png']) expect(isVersionFile(path)).toBe(false);
});

test('the version resource of a program beats its texts', () => {
  const resource = Buffer.concat([Buffer.from('FileVersion\0\0', 'utf16le'), Buffer.from('2, 10, 0, 7\0', 'utf16le')]);
  const texts = Buffer.from('\0libpack version 9.8.7\0Cable Game 1.4.1\0', 'latin1');
  expect(versionInProgram('cable-game.exe', Buffer.concat([texts, resource]))?.version).toBe('2.10.0.7');
  // The program's own name counts for more than the version of some library.
  expect(versionInProgram('bin/cable-game.exe', texts)?.version).toBe('1.4.1');
  expect(versionInProgram('other.exe', texts)?.version).toBe('9.8.7');
  expect(versionInProgram('other.exe', Buffer.from('\0 1.2.3.4.5.6 \0 10.0.0 \0'))).toBeUndefined();
});

test('programs are known by their first bytes', () => {
  expect(isProgram('game', Buffer.from('\x7fELF', 'latin1'))).toBe(true);
  expect(isProgram('data.pak', Buffer.from('MORE'))).toBe(false);
});
