import { WORD_FILES } from '../core/forms/words';
import { ALL_CONVERTERS } from './convert-entry';
import { OUT_FORMATS } from './out-formats';

test('the formats that are offered are those that something writes', () => {
  const written = new Set([...ALL_CONVERTERS.flatMap(({ formats }) => formats), ...WORD_FILES]);
  expect(new Set(OUT_FORMATS)).toEqual(written);
});
