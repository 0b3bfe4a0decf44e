/** The recipe engine on archives of the demo game's kind: read, proven, rebuilt, damaged. */
import fc from 'fast-check';
import { bufferSource, collect, memoryScratch, memorySink } from '../../src/core/bytes';
import { readHold } from '../../demo/stand-in/hold-reader';
import {
  explainEntry,
  isProven,
  LAYOUTS,
  NO_EDITS,
  openArchive,
  planNew,
  planRebuild,
  prove,
  readEntry,
  volumeBytes,
  writePlan,
  type Edits,
  type Layout,
} from '../../src/core/recipe';
import { faultOf, hold, HOLD, KEY, open, plain, SOME } from '../support/hold';

const entries = fc.uniqueArray(
  fc.record({
    path: fc.stringMatching(/^[a-z0-9_]{1,8}(\/[a-z0-9_]{1,8}){0,3}\.(txt|json|wav|bin)$/),
    bytes: fc.oneof(
      fc.uint8Array({ maxLength: 600 }),
      fc.tuple(fc.nat(255), fc.nat(5000)).map(([value, length]) => new Uint8Array(length).fill(value)),
    ),
  }),
  { selector: (entry) => entry.path, maxLength: 24 },
);

test('any archive of another hand is read, proven and rebuilt', async () => {
  await fc.assert(
    fc.asyncProperty(entries, async (made) => {
      const archive = await open(hold(made));
      expect(archive.complaints).toEqual([]);
      expect(archive.entries.count).toBe(made.length);
      for (const { path, bytes } of made) expect(Buffer.compare(await plain(archive, path), bytes)).toBe(0);
      const proof = await prove(archive, { scratch: memoryScratch() });
      expect(proof).toMatchObject({ identical: { same: true }, changed: { equal: made.length, tested: made.length } });
      expect(isProven(proof)).toBe(true);
    }),
    { numRuns: 40 },
  );
});

test('an archive made from the recipe alone is read back', async () => {
  await fc.assert(
    fc.asyncProperty(entries, async (made) => {
      const add = made.map(({ path, bytes }) => ({ path, bytes: bufferSource(bytes) }));
      const plan = await planNew(HOLD, add, { keys: new Map([['content', KEY]]), scratch: memoryScratch() });
      const archive = await open(await collect(volumeBytes(plan.volumes[0]!)));
      for (const { path, bytes } of made) expect(Buffer.compare(await plain(archive, path), bytes)).toBe(0);
      expect(isProven(await prove(archive, { scratch: memoryScratch() }))).toBe(true);
    }),
    { numRuns: 25 },
  );
});

const edit = fc.record({
  layout: fc.constantFrom<Layout>(...LAYOUTS),
  replace: fc.dictionary(fc.constantFrom('0', '1', '2', '3', '4'), fc.uint8Array({ maxLength: 3000 }), { maxKeys: 4 }),
  remove: fc.uniqueArray(fc.nat(4), { maxLength: 2 }),
  add: fc.uniqueArray(fc.stringMatching(/^new\/[a-z]{1,6}\.bin$/), { maxLength: 2 }),
});

test('whatever is changed, added and removed, in every layout the judge reads it', async () => {
  const archive = await open(hold());
  await fc.assert(
    fc.asyncProperty(edit, async ({ layout, replace, remove, add }) => {
      const edits: Edits = {
        replace: new Map(
          Object.entries(replace)
            .filter(([entry]) => !remove.includes(Number(entry)))
            .map(([entry, bytes]) => [Number(entry), bufferSource(bytes)]),
        ),
        // In a patch, what is removed becomes a marker.
        remove: new Set(remove),
        add: add.map((path) => ({ path, bytes: bufferSource(Buffer.from(path.repeat(30))) })),
      };
      const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
      const bytes = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
      expect(bytes.length).toBe(plan.size);
      const judged = readHold('test.hold', bytes, Buffer.from(KEY));
      const expected = new Map<string, Uint8Array>();
      for (const [i, entry] of SOME.entries()) {
        const changed = edits.replace.get(i);
        if (changed !== undefined) expected.set(entry.path, await changed.read(0, changed.size));
        else if (layout !== 'patch' && !remove.includes(i)) expected.set(entry.path, entry.bytes);
      }
      for (const path of add) expected.set(path, Buffer.from(path.repeat(30)));
      const there = judged.rows.filter((row) => !row.deleted);
      expect(there.map((row) => row.path).sort()).toEqual([...expected.keys()].sort());
      const gone = judged.rows.filter((row) => row.deleted).map((row) => row.path);
      expect(gone.sort()).toEqual(layout === 'patch' ? remove.map((i) => SOME[i]!.path).sort() : []);
      for (const row of there) expect(Buffer.compare(judged.bytes(row), expected.get(row.path)!)).toBe(0);
      const again = await openArchive(HOLD, bufferSource(bytes), { keys: archive.keys });
      const proof = await prove(again, { scratch: memoryScratch() });
      expect(isProven(proof)).toBe(true);
    }),
    { numRuns: 80 },
  );
});

test('unchanged entries keep their very bytes, and an entry that fits stays in its spot', async () => {
  const original = hold();
  const archive = await open(original);
  const raw = archive.entries;
  const edits: Edits = { ...NO_EDITS, replace: new Map([[3, bufferSource(Uint8Array.of(9, 9))]]) };
  const plan = await planRebuild(archive, edits, { layout: 'keep', scratch: memoryScratch() });
  const rebuilt = Buffer.from(await collect(volumeBytes(plan.volumes[0]!)));
  expect(plan.movedBytes).toBe(0);
  expect(rebuilt.length).toBe(original.length);
  for (const entry of [0, 1, 2]) {
    const end = raw.at(entry) + raw.stored(entry);
    expect(Buffer.compare(rebuilt.subarray(raw.at(entry), end), original.subarray(raw.at(entry), end))).toBe(0);
  }
});

test('an entry that does not pack well is stored raw, and its row says so', async () => {
  const archive = await open(hold());
  const noise = crypto.getRandomValues(new Uint8Array(500));
  const plan = await planRebuild(
    archive,
    { ...NO_EDITS, replace: new Map([[0, bufferSource(noise)]]) },
    { scratch: memoryScratch() },
  );
  const again = await open(await collect(volumeBytes(plan.volumes[0]!)));
  expect(again.entries.method(0)).toBe(0);
  expect(again.entries.stored(0)).toBe(500);
});

test('the fields of an entry are told with their bytes', async () => {
  const archive = await open(hold());
  const fields = await explainEntry(archive, 1);
  expect(fields.map((field) => field.field)).toEqual(['path', 'at', 'kept', 'size', 'crc', 'how', 'tag']);
  expect(fields[0]).toMatchObject({ value: '"a/second.json"', unlocked: true, formula: 'entry.path' });
});

test('a plan that is given up leaves the sink empty', async () => {
  const archive = await open(hold());
  const plan = await planRebuild(archive, NO_EDITS, { scratch: memoryScratch() });
  const stop = new AbortController();
  stop.abort();
  const sink = memorySink();
  expect((await faultOf(writePlan(plan, async () => sink, { signal: stop.signal }))).code).toBe('stopped');
  expect(sink.bytes().length).toBe(0);
});

describe('bad input', () => {
  test('a wrong key is told by the bytes it gives', async () => {
    const fault = await faultOf(open(hold(), { keys: new Map([['content', KEY.map((byte) => byte ^ 1)]]) }));
    expect(fault).toMatchObject({
      code: 'key-wrong',
      region: 'index',
      field: 'mark',
      offset: 0,
      within: 'index',
      expected: '"ROWS"',
    });
    expect(fault['found']).not.toBe('"ROWS"');
  });

  test('no key names the slot and its kind', async () => {
    expect(await faultOf(open(hold(), { keys: new Map() }))).toMatchObject({
      code: 'key-missing',
      expected: 'a key of kind aes-256',
    });
  });

  test('cut off anywhere, the archive is refused with a fault that names the place', async () => {
    const whole = hold();
    for (let length = 0; length < whole.length; length += 37) {
      const fault = await faultOf(open(whole.subarray(0, length)));
      expect(['cut-short', 'outside-file', 'must-differs', 'key-wrong', 'codec-failed']).toContain(fault.code);
      expect(fault['file']).toBe('test.hold');
    }
  });

  test('a count of four billion is refused before a row is read', async () => {
    const bytes = hold();
    bytes.writeUInt32LE(0xffffffff, 8);
    const fault = await faultOf(open(bytes));
    expect(fault).toMatchObject({ code: 'cut-short', region: 'index', field: 'rows', found: '4,294,967,295 rows' });
  });

  test('a flipped byte in the locked index is told, with the checksum that covers it', async () => {
    const bytes = hold();
    const at = bytes.readUInt32LE(16) + 40;
    bytes[at] = bytes[at]! ^ 0x10;
    const outcome = await open(bytes).then(
      (archive) => archive.complaints[0]!,
      (error: { fault: object }) => error.fault,
    );
    expect(JSON.stringify(outcome)).toContain('indexCrc');
  });

  test('a flipped byte of an entry is told when the entry is read, and the others are read', async () => {
    const bytes = hold();
    const archive = await open(bytes);
    bytes[archive.entries.at(3)] = 0xee;
    expect(await faultOf(plain(archive, 'b/raw.bin'))).toMatchObject({
      code: 'checksum-differs',
      field: 'crc',
      entry: 'b/raw.bin',
    });
    expect((await plain(archive, 'a/first.txt')).length).toBe(600);
  });

  test('a bomb ends at its declared size', async () => {
    const archive = await open(hold([{ path: 'bomb.txt', bytes: new Uint8Array(70 << 20) }]), {
      limits: { maxRatio: 100 },
    });
    expect(await faultOf(collect(readEntry(archive, 0)))).toMatchObject({ code: 'limit-reached', entry: 'bomb.txt' });
  });

  test('an entry that claims less than it unpacks to is stopped', async () => {
    const archive = await open(hold([{ path: 'x.txt', bytes: new Uint8Array(4000) }]));
    const lying = {
      ...archive,
      entries: { ...archive.entries, size: () => 100, at: archive.entries.at, stored: archive.entries.stored },
    };
    expect(await faultOf(collect(readEntry(lying, 0)))).toMatchObject({ code: 'size-differs' });
  });

  test('bytes flipped at random end in a fault or in an archive, never in anything else', async () => {
    const whole = hold();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        async (flips) => {
          const bytes = Buffer.from(whole);
          for (const [at, value] of flips) bytes[at] = value;
          try {
            const archive = await open(bytes, { limits: { maxEntryBytes: 1 << 20 } });
            for (let i = 0; i < archive.entries.count; i++) await collect(readEntry(archive, i)).catch(mustBeFault);
          } catch (error) {
            mustBeFault(error);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

function mustBeFault(error: unknown): void {
  if (typeof (error as { fault?: { code?: unknown } }).fault?.code !== 'string') throw error;
}
