/** The examples of docs/recipes.md, run. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { codecNames, hasherNames, KEY_KINDS } from '../../src/core/codecs';
import { compileRecipe, DEFAULT_LIMITS, isProven, openArchive, prove, readEntry } from '../../src/core/recipe';

const text = readFileSync(join(__dirname, '../../docs/recipes.md'), 'utf8');
const block = (language: string) => new RegExp(`\`\`\`${language}\n([\\s\\S]*?)\`\`\``).exec(text)![1]!;

test('the example reads its file, proves and rebuilds', async () => {
  const recipe = compileRecipe(block('yaml'));
  // The hex block states its last line with the offset it lies at; what is between is zero.
  const [head, tail] = block('hex').split('... ');
  const first = Buffer.from(head!.replace(/\s/g, ''), 'hex');
  const [at, rest] = tail!.split(':');
  const bytes = Buffer.alloc(Number.parseInt(at!, 16) + Buffer.from(rest!.replace(/\s/g, ''), 'hex').length);
  first.copy(bytes);
  Buffer.from(rest!.replace(/\s/g, ''), 'hex').copy(bytes, Number.parseInt(at!, 16));
  const archive = await openArchive(recipe, bufferSource(bytes));
  expect(archive.entries.path(0)).toBe('a.txt');
  expect(Buffer.from(await collect(readEntry(archive, 0))).toString()).toBe('hi!');
  expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
});

test('every step, hash, kind of key and limit is in the reference', () => {
  const written = text.replaceAll('MODE', 'cbc');
  for (const name of [...hasherNames(), ...Object.keys(KEY_KINDS), ...Object.keys(DEFAULT_LIMITS)])
    expect(text).toContain(`\`${name}\``);
  for (const name of codecNames()) expect(written).toContain(name.replace(/-(ecb|ctr|cfb)$/, '-cbc'));
});
