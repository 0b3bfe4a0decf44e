/** Links in TAR archives, made by `tar` and by Python, and read by both again. */
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { linkSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import {
  entrySize,
  followLink,
  LAYOUTS,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  type Archive,
  type Edits,
} from '../../src/core/recipe';
import { loadRecipe } from '../../src/core/recipe/node';
import { sameCases } from './same-cases';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-tar-links-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const open = async (bytes: Uint8Array) =>
  openArchive(await loadRecipe(join(__dirname, '../../recipes/tar-archive.yaml')), bufferSource(bytes, 'a.tar'));

/** Paths with the SHA-256 of what an entry or the entry it links to holds; folders and links to none are left out. */
async function contentOf(archive: Archive): Promise<Record<string, string>> {
  const { entries } = archive;
  const found: Record<string, string> = {};
  for (let n = 0; n < entries.count; n++)
    if (!entries.isDirectory(n) && followLink(archive, n) !== undefined)
      found[entries.path(n)] = createHash('sha256')
        .update(await collect(readEntry(archive, n)))
        .digest('hex');
  return found;
}

/** The same as Python's tarfile reads it: `extractfile` follows links. */
function asPython(bytes: Uint8Array): Record<string, string> {
  const file = join(folder, 'judged.tar');
  writeFileSync(file, bytes);
  const script = `
import sys, json, hashlib, tarfile
out = {}
with tarfile.open(sys.argv[1]) as t:
    for m in t:
        if m.isdir(): continue
        try: f = t.extractfile(m)
        except (KeyError, RecursionError): continue
        if f is not None: out[m.name] = hashlib.sha256(f.read()).hexdigest()
print(json.dumps(out))`;
  return JSON.parse(execFileSync('python3', ['-c', script, file], { encoding: 'utf8' })) as Record<string, string>;
}

/** A folder with a file, a hard link, symbolic links, one to a folder, and one that leads nowhere. */
function tree(name: string): string {
  const home = join(folder, name);
  mkdirSync(join(home, 'a/deep/er'), { recursive: true });
  writeFileSync(join(home, 'a/deep/file.txt'), 'Mind the doors.\n');
  linkSync(join(home, 'a/deep/file.txt'), join(home, 'a/hard.txt'));
  symlinkSync('deep/file.txt', join(home, 'a/soft.txt'));
  symlinkSync('../../soft.txt', join(home, 'a/deep/er/up.txt'));
  symlinkSync('deep', join(home, 'a/folder-link'));
  symlinkSync('../../outside.txt', join(home, 'a/outside.txt'));
  symlinkSync('circle.txt', join(home, 'a/circle.txt'));
  symlinkSync(`deep/${'../deep/'.repeat(20)}file.txt`, join(home, 'a/long.txt'));
  return home;
}

const tarOf = (home: string, format: string): Buffer =>
  execFileSync('tar', [`--format=${format}`, '--sort=name', '-cf', '-', '-C', home, 'a']);

describe.each(['gnu', 'pax'])('written by tar as %s', (format) => {
  let archive: Archive;
  beforeAll(async () => {
    archive = await open(tarOf(tree(format), format));
  });
  const at = (path: string) =>
    Array.from({ length: archive.entries.count }, (_, n) => n).find((n) => archive.entries.path(n) === path)!;
  const rebuilt = async (edits: Partial<Edits>, layout: (typeof LAYOUTS)[number] = 'keep') => {
    const plan = await planRebuild(archive, { ...NO_EDITS, ...edits }, { layout, scratch: memoryScratch() });
    return collect(volumeBytes(plan.volumes[0]!));
  };
  const text = (words: string) => bufferSource(Buffer.from(words), 'new');

  test('links have the bytes of what they lead to', async () => {
    const content = await contentOf(archive);
    expect(Object.keys(content).sort()).toEqual([
      'a/deep/er/up.txt',
      'a/deep/file.txt',
      'a/hard.txt',
      'a/long.txt',
      'a/soft.txt',
    ]);
    expect(new Set(Object.values(content)).size).toBe(1);
    expect(content).toEqual(asPython(tarOf(join(folder, format), format)));
    expect(archive.entries.link(at('a/folder-link'))).toBe('a/deep');
    expect(archive.entries.link(at('a/outside.txt'))).toBe('../outside.txt');
    expect(followLink(archive, at('a/circle.txt'))).toBeUndefined();
  });

  test.each(LAYOUTS.filter((layout) => layout !== 'patch'))(
    'a changed file is seen through its links, by other readers too: %s',
    async (layout) => {
      const bytes = await rebuilt(
        { replace: new Map([[at('a/deep/file.txt'), text('The next cabin leaves soon.\n')]]) },
        layout,
      );
      const content = await contentOf(await open(bytes));
      expect(content).toEqual(asPython(bytes));
      const sha = createHash('sha256').update('The next cabin leaves soon.\n').digest('hex');
      expect(new Set(Object.values(content))).toEqual(new Set([sha]));
    },
  );

  test('a link is not given bytes, and what it leads to is not removed under it', async () => {
    await expect(rebuilt({ replace: new Map([[at('a/soft.txt'), text('x')]]) })).rejects.toMatchObject({
      fault: { code: 'conflict', entry: 'a/soft.txt', hint: expect.stringContaining('a/deep/file.txt') },
    });
    await expect(rebuilt({ remove: new Set([at('a/deep/file.txt')]) })).rejects.toMatchObject({
      fault: { code: 'conflict', entry: 'a/deep/file.txt', found: expect.stringContaining('the link') },
    });
    const bytes = await rebuilt({ remove: new Set([at('a/soft.txt'), at('a/deep/er/up.txt')]) });
    writeFileSync(join(folder, 'removed.tar'), bytes);
    const listed = execFileSync('tar', ['-tf', join(folder, 'removed.tar')], { encoding: 'utf8' });
    expect(listed).not.toMatch(/soft|up\.txt/);
    expect(await contentOf(await open(bytes))).toEqual(asPython(bytes));
  });

  test('limits on what is read see the size of what a link leads to', () => {
    expect(archive.entries.size(at('a/soft.txt'))).toBe(0);
    expect(entrySize(archive, at('a/soft.txt'))).toBe('Mind the doors.\n'.length);
    expect(entrySize(archive, at('a/outside.txt'))).toBe(0);
  });

  test('the proof holds', async () => {
    const { edits, changed } = await prove(archive, { scratch: memoryScratch() });
    expect(edits.edits.filter(({ fault }) => fault !== undefined)).toEqual([]);
    expect(changed.equal).toBe(changed.tested);
  });
});

test('whatever a TAR holds of files and links, other readers and this one read the same', async () => {
  const name = fc.stringMatching(/^[a-c]{1,3}$/);
  const member = fc.oneof(
    fc.record({
      is: fc.constant('file' as const),
      path: fc.array(name, { minLength: 1, maxLength: 3 }),
      text: fc.string(),
    }),
    fc.record({
      is: fc.constantFrom('hard' as const, 'soft' as const),
      path: fc.array(name, { minLength: 1, maxLength: 3 }),
      to: fc.nat({ max: 9 }),
      up: fc.nat({ max: 2 }),
    }),
  );
  const script = `
import sys, io, json, tarfile
order = json.loads(sys.argv[1])
with tarfile.open(sys.argv[2], 'w', format=getattr(tarfile, order['format'] + '_FORMAT')) as t:
    for m in order['members']:
        i = tarfile.TarInfo(m['path'])
        if 'text' in m:
            b = m['text'].encode(); i.size = len(b); t.addfile(i, io.BytesIO(b))
        else:
            i.type = tarfile.LNKTYPE if m['is'] == 'hard' else tarfile.SYMTYPE
            i.linkname = m['to']; t.addfile(i)`;
  await fc.assert(
    fc.asyncProperty(
      fc.constantFrom('USTAR', 'GNU', 'PAX'),
      fc.uniqueArray(member, { minLength: 1, maxLength: 10, selector: ({ path }) => path.join('/') }),
      async (format, all) => {
        const paths = all.map(({ path }) => path.join('/'));
        const members = all.map((one, i) => {
          if (one.is === 'file') return { path: paths[i], text: one.text };
          // A hard link names a member before it, as tar writes them.
          const to = paths[one.is === 'hard' ? one.to % Math.max(1, i) : one.to % paths.length]!;
          const relative = `${'../'.repeat(one.path.length - 1)}${to}`;
          return { path: paths[i], is: one.is, to: one.is === 'hard' ? to : `${'./'.repeat(one.up)}${relative}` };
        });
        const file = join(folder, 'made.tar');
        execFileSync('python3', ['-c', script, JSON.stringify({ format, members }), file]);
        const bytes = readFileSync(file);
        expect(await contentOf(await open(bytes))).toEqual(asPython(bytes));
      },
    ),
    sameCases(15),
  );
});

/** The types of all headers of a TAR archive, in order. */
function headerTypes(bytes: Uint8Array): string {
  let types = '';
  const field = (from: number, length: number) =>
    Buffer.from(bytes.subarray(from, from + length))
      .toString('latin1')
      .split('\0')[0]!;
  for (let at = 0; field(at, 100) !== '';) {
    types += field(at + 156, 1);
    at += 512 + Math.ceil(parseInt(field(at + 124, 11), 8) / 512) * 512;
  }
  return types;
}

test.each(['gnu', 'pax'])('the headers in front of an entry go with it, and no other’s: %s', async (format) => {
  const home = mkdtempSync(join(folder, 'headers-'));
  const deep = join(home, 'a', 'x'.repeat(60), 'y'.repeat(60));
  mkdirSync(deep, { recursive: true });
  writeFileSync(join(deep, 'first.txt'), 'one');
  writeFileSync(join(home, 'a/plain.txt'), 'two');
  linkSync(join(deep, 'first.txt'), join(deep, 'second.txt'));
  const archive = await open(tarOf(home, format));
  const { entries } = archive;
  // Each entry with the headers in front of it.
  const types = headerTypes(tarOf(home, format)).match(/[xLK]*[0125]/g)!;
  expect(types).toHaveLength(entries.count);
  for (let n = 0; n < entries.count; n++) {
    if (entries.isDirectory(n) || entries.path(n).endsWith('first.txt')) continue;
    const plan = await planRebuild(
      archive,
      { ...NO_EDITS, remove: new Set([n]) },
      { layout: 'keep', scratch: memoryScratch() },
    );
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    expect(headerTypes(bytes)).toBe(types.toSpliced(n, 1).join(''));
    expect(await contentOf(await open(bytes))).toEqual(asPython(bytes));
  }
});

test.each([
  ['in deep folders', `${'p'.repeat(70)}/${'q'.repeat(70)}/new.txt`],
  ['with letters of several bytes', `${'é'.repeat(60)}/new.txt`],
  ['that is short', 'new.txt'],
])('an entry is added under a path %s', async (_, path) => {
  const archive = await open(tarOf(tree(`added-${path.length}`), 'gnu'));
  const plan = await planRebuild(
    archive,
    { ...NO_EDITS, add: [{ path, bytes: bufferSource(Buffer.from('x'), path) }] },
    { layout: 'keep', scratch: memoryScratch() },
  );
  const bytes = await collect(volumeBytes(plan.volumes[0]!));
  const content = await contentOf(await open(bytes));
  expect(content[path]).toBe(createHash('sha256').update('x').digest('hex'));
  expect(content).toEqual(asPython(bytes));
});

test('paths that begin with ./ lie in no folder of that name, and the archive is changed as any other', async () => {
  const inside = mkdtempSync(join(folder, 'dotted-'));
  mkdirSync(join(inside, 'words'));
  writeFileSync(join(inside, 'read.txt'), 'read me');
  writeFileSync(join(inside, 'words', 'en.txt'), 'Next stop');
  linkSync(join(inside, 'read.txt'), join(inside, 'same.txt'));
  const long = `${'a-long-folder/'.repeat(9)}deep.txt`;
  mkdirSync(join(inside, long, '..'), { recursive: true });
  writeFileSync(join(inside, long), 'far down');
  for (const format of ['gnu', 'pax'] as const) {
    const file = join(folder, `dotted-${format}.tar`);
    execFileSync('tar', [`--format=${format}`, '-C', inside, '-cf', file, '.']);
    const archive = await open(new Uint8Array(readFileSync(file)));
    const { entries } = archive;
    const paths = Array.from({ length: entries.count }, (_, n) => entries.path(n)).filter(
      (path) => !path.endsWith('/'),
    );
    expect(paths.filter((path) => path.startsWith('.'))).toEqual([]);
    expect(Object.keys(await contentOf(archive)).sort()).toEqual([long, 'read.txt', 'same.txt', 'words/en.txt'].sort());
    const at = (path: string) =>
      Array.from({ length: entries.count }, (_, n) => n).find((n) => entries.path(n) === path)!;
    const edits: Edits = {
      ...NO_EDITS,
      replace: new Map([[at('words/en.txt'), bufferSource(Buffer.from('Nächster Halt'))]]),
      remove: new Set([at(long)]),
      add: [{ path: 'words/pl.txt', bytes: bufferSource(Buffer.from('Następny')) }],
    };
    const plan = await planRebuild(archive, edits, { scratch: memoryScratch() });
    const rebuilt = await collect(volumeBytes(plan.volumes[0]!));
    const sha = (text: string) => createHash('sha256').update(text).digest('hex');
    expect(asPython(rebuilt)).toEqual({
      './read.txt': sha('read me'),
      './same.txt': sha('read me'),
      './words/en.txt': sha('Nächster Halt'),
      'words/pl.txt': sha('Następny'),
    });
  }
});
