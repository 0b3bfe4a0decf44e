import { EditorState } from '@codemirror/state';
import { ensureSyntaxTree } from '@codemirror/language';
import { languageOf } from './languages';

/** Names of what the parser of a language finds in a text. */
function found(name: string, text: string): string[] {
  const language = languageOf(name, text);
  if (language === undefined) return [];
  const state = EditorState.create({ doc: text, extensions: [language] });
  const names = new Set<string>();
  ensureSyntaxTree(state, text.length, 5_000)!.iterate({ enter: (node) => void names.add(node.name) });
  return [...names];
}

test.each([
  ['main.lua', 'local x = 1 -- one', 'keyword'],
  ['sky.frag', 'void main() { discard; }', 'keyword'],
  ['a.ini', '[cabins]\nspeed = 4\n', 'quote'],
  ['a.toml', 'speed = 4 # comment', 'comment'],
  ['a.yaml', 'speed: 4', 'Key'],
  ['a.json', '{"speed": 4}', 'PropertyName'],
])('%s is coloured as its ending says', (name, text, kind) => {
  expect(found(name, text).join(' ').toLowerCase()).toContain(kind.toLowerCase());
});

test('a text whose ending says nothing is told by how it begins', () => {
  expect(found('layout.dat', '<?xml version="1.0"?>\n<root a="1"/>').length).toBeGreaterThan(1);
  expect(found('settings', '; made by hand\n[cabins]\nspeed = 4\n').length).toBeGreaterThan(1);
  expect(found('start', '#!/bin/sh\necho "on"\n').length).toBeGreaterThan(1);
  expect(found('state', '{ "speed": 4 }')).toContain('Property');
});

test('plain words have no language', () => {
  expect(languageOf('readme.txt', 'Mind the doors. [Really] = yes')).toBeUndefined();
  expect(languageOf('LINES', 'a < b')).toBeUndefined();
});
