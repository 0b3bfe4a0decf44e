/** What every registered form has to do, asked of one entry of each in the demo game. */
import { QueryTypes } from 'sequelize';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { KINDS } from '../../src/core/game';
import { findWinner } from '../../src/server/content';
import { ArchiveModel, database } from '../../src/server/database';
import { entrySubject, formOf, FORMS } from '../../src/server/forms';
import { type KindName, takeOutOrder } from '../../src/server/shapes';
import { glance } from '../../src/server/shapes/entry-details';
import { addKey } from '../../src/server/games';
import { formFacts } from '../../src/server/shapes/form-facts';
import { ended, openedGame, settled, withWorker } from './support';

withWorker();

let id: number;
beforeAll(async () => {
  ({ id } = await openedGame('forms'));
  await ended((await addKey(id, gameKey('1.4.1', 'reel').toString('hex'))).id);
  await settled(id);
});

async function anyOf(kind: KindName): Promise<{ archive: number; n: number }> {
  const [row] = await database().query<{ archive: number; n: number }>(
    'select archive_id as archive, n from entries where game_id = $1 and kind = $2 and wins order by path limit 1',
    { bind: [id, kind], type: QueryTypes.SELECT },
  );
  return row!;
}

/** An entry of each kind, any where it does not matter, and an open format that it is written in. */
const SAMPLES: Readonly<Partial<Record<KindName, { path: string; as?: string; order?: object }>>> = {
  picture: { path: 'models/crane/crane_colour.tex', as: 'png', order: { pictures: 'png' } },
  sound: { path: 'tannoy/gate_open.wav', as: 'flac', order: { sounds: 'flac' } },
  film: { path: 'film/pictures/000000.png', order: { films: 'webm' } },
  mesh: { path: 'models/crane/crane.mesh', as: 'glb', order: { meshes: 'glb' } },
  font: { path: 'fonts/gondola.otf', as: 'woff2', order: { fonts: 'woff2' } },
  words: { path: '' },
  records: { path: 'scenes/title.json' },
};

test('each kind but bytes has one form', () => {
  expect(FORMS.map(({ kind }) => kind).sort()).toEqual(KINDS.filter((kind) => kind !== 'bytes').sort());
});

describe.each(FORMS.map((form) => [form.kind, form] as const))('the form of %s', (kind, form) => {
  const { path, as, order } = SAMPLES[kind]!;
  const subject = async () => {
    const { archive, n } = path === '' ? await anyOf(kind) : await findWinner(id, path);
    return entrySubject(archive, n);
  };

  test('is found, read, and seen at a glance', async () => {
    const of = await subject();
    expect(formOf(of)?.kind).toBe(kind);
    const { facts, expects, trouble } = await form.read(of);
    expect(trouble).toBeUndefined();
    if (facts !== null) expect(formFacts.parse(facts).form).toBe(kind);
    expect(expects.every((line) => /^[A-Z0-9].*\.$/s.test(line))).toBe(true);
    expect(glance.parse(await form.glance(of)).summary).not.toMatch(/NaN|undefined/);
  });

  test('a thumbnail is a small WebP, where there is one', async () => {
    // Packets of a film show themselves.
    if (form.thumbnail === undefined || kind === 'film') return;
    const { format, width } = await sharp(
      await form.thumbnail(await subject(), { width: 264, height: 168 }),
    ).metadata();
    expect(format).toBe('webp');
    expect(width).toBeLessThanOrEqual(264);
  });

  test('its own bytes fit without being changed', async () => {
    if (form.fit === undefined) return;
    const of = await subject();
    const bytes = await of.bytes();
    const dropped = { bytes, fileName: path, fitOptions: {}, signal: new AbortController().signal };
    const made = await form
      .fit(of, { ...dropped, changed: () => Promise.resolve(undefined) })
      .catch((error: { fault?: { code: string } }) => error.fault?.code);
    // What no open format describes is taken from an open file alone.
    if (typeof made === 'string') expect(made).toBe('wrong-kind');
    else expect(made!.files.every((file) => file.path !== path || Buffer.compare(file.bytes, bytes) === 0)).toBe(true);
  });

  test('is written in an open format as a file and in an order, and refuses a format of another form', async () => {
    const of = await subject();
    const { signal } = new AbortController();
    if (form.asFile !== undefined && as !== undefined) {
      const file = await form.asFile(of, as, signal);
      expect(file!.bytes.length).toBeGreaterThan(100);
      expect(file!.path.endsWith(`.${as}`)).toBe(true);
    }
    expect(await form.asFile?.(of, 'no such format', signal)).toBeUndefined();
    if (form.planOut === undefined) return;
    const { archive, n } = of.entry!;
    const { path: name } = (await ArchiveModel.findByPk(archive))!;
    const entry = { archive, n, path, size: of.size, kind, label: null, mark: name };
    const outgoing = { gameId: id, entries: [entry], paths: new Set([path]) };
    const plain = takeOutOrder.parse({ to: null });
    expect(await form.planOut({ ...outgoing, order: plain })).toBeUndefined();
    const plan = (await form.planOut({ ...outgoing, order: takeOutOrder.parse({ to: null, ...order }) }))!;
    expect(plan.converts(entry)).toBe(true);
    expect(plan.converts({ ...entry, path: `a.${plan.as}` })).toBe(false);
    const sizes: number[] = [];
    for await (const { chunks } of plan.files(entry, signal)) {
      let size = 0;
      for await (const chunk of chunks) size += chunk.length;
      sizes.push(size);
    }
    expect(sizes.length).toBeGreaterThan(0);
    expect(Math.min(...sizes)).toBeGreaterThan(50);
    expect(Object.values(order!)).toContain(plan.as);
  });
});
