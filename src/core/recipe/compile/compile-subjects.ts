/** What entries hold: words, languages, films. */
import type { Names } from '../formula/names';
import { textCodec } from '../kinds/text-codec';
import type { TextPath } from '../language/yaml-text';
import type { FilmRule, LanguagesRule, WordsRule } from '../model';
import { formulasOf, invalid, type Setting } from './setting';
import { bindingOf } from './compile-bindings';

export function compileWords(setting: Setting, names: Names): WordsRule | undefined {
  const text = setting.parsed.recipe.entries.words;
  if (text === undefined) return undefined;
  const path: TextPath = ['entries', 'words'];
  const formula = formulasOf(text, path, setting, names);
  const line = setting.parsed.lineOf(path);
  if (text.encoding === 'utf-16' && setting.numbers === 'stored')
    throw invalid(line, 'the byte order of utf-16 depends on the file', 'utf-16le or utf-16be');
  return {
    line,
    locale: formula('locale')!,
    key: formula('key'),
    most: formula('most'),
    text: textCodec(text.encoding ?? 'utf-8', setting.numbers !== 'big'),
  };
}

export function compileLanguages(setting: Setting, names: Names): LanguagesRule | undefined {
  const text = setting.parsed.recipe.entries.languages;
  if (text === undefined) return undefined;
  return { code: formulasOf(text, ['entries', 'languages'], setting, names)('code')! };
}

export function compileFilm(setting: Setting, names: Names): FilmRule | undefined {
  const text = setting.parsed.recipe.entries.film;
  if (text === undefined) return undefined;
  const path: TextPath = ['entries', 'film'];
  const formula = formulasOf(text, path, setting, names);
  const streamsPath: TextPath = [...path, 'streams'];
  const each = bindingOf(text.streams.each, [...streamsPath, 'each'], setting);
  const of = formulasOf(text.streams, streamsPath, setting, {
    ...setting.names,
    rows: [{ name: each.name, shape: each.shape }],
  });
  return {
    line: setting.parsed.lineOf(path),
    stream: formula('stream')!,
    time: formula('time')!,
    shownFor: formula('stands'),
    streams: {
      each,
      is: of('is')!,
      codec: of('codec')!,
      locale: of('locale'),
      rate: of('rate'),
      channels: of('channels'),
      block: of('block'),
      width: of('width'),
      height: of('height'),
      folder: of('folder')!,
      ending: of('ending')!,
    },
    digits: text.digits ?? 6,
  };
}
