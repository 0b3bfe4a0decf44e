/** The stand-in game on models, clips and textures: what is whole loads, and each damage is told by its code. */
import { crc32 } from '@node-rs/crc32';
import { models } from '../../demo/assets/models';
import { loadModels } from '../../demo/stand-in/models';
import { LoadStop } from '../../demo/stand-in/report';

const CABIN = 'models/cabin/cabin.mesh';
const CRANE = 'models/crane/crane.mesh';
const TURN = 'models/crane/turn.clip';
const COLOUR = 'models/cabin/cabin_colour.tex';
const FAR = 'models/cabin/cabin_colour.texfar';

let whole: ReadonlyMap<string, Buffer>;
beforeAll(async () => {
  whole = new Map((await models()).map(({ path, bytes }) => [path, Buffer.from(bytes)]));
});

/** @param change of an entry's bytes; undefined takes it away */
function load(path: string, change: (bytes: Buffer) => Buffer | undefined): string {
  const changed = change(Buffer.from(whole.get(path)!));
  const entries = new Map(whole);
  if (changed === undefined) entries.delete(path);
  else entries.set(path, changed);
  try {
    const find = (entry: string) => {
      const bytes = entries.get(entry);
      return bytes && { file: 'core.hold', bytes };
    };
    loadModels(
      entries.keys(),
      find,
      () => undefined,
      () => undefined,
    );
    return 'none';
  } catch (error) {
    if (error instanceof LoadStop) return error.finding.code;
    throw error;
  }
}

const set = (at: number, value: number) => (bytes: Buffer) => {
  bytes[at] = value;
  return bytes;
};

test.each<[string, string, string, (bytes: Buffer) => Buffer | undefined]>([
  ['nothing', COLOUR, 'none', (bytes) => bytes],
  ['another magic', COLOUR, 'TEX-MAGIC', set(0, 0)],
  ['a packing that nobody knows', COLOUR, 'TEX-FORMAT', set(6, 9)],
  ['plain numbers where colours are', COLOUR, 'TEX-FLAGS', set(7, 0)],
  ['a side that is no power of two', COLOUR, 'TEX-SIDE', set(8, 1)],
  ['a mip too few', COLOUR, 'TEX-MIPS', set(12, 8)],
  ['half a texture', COLOUR, 'TEX-SHORT', (bytes) => bytes.subarray(0, bytes.length - 20)],
  ['more than a texture', COLOUR, 'TEX-LONG', (bytes) => Buffer.concat([bytes, Buffer.alloc(16)])],
  ['no sibling', FAR, 'TEX-SIBLING', () => undefined],
  ['another pixel in the sibling', FAR, 'TEX-FAR-CRC', set(400, 7)],
  ['a sibling of another packing', FAR, 'TEX-FAR-FORMAT', set(6, 3)],
  ['no texture', 'models/cabin/cabin_normal.tex', 'MODEL-MISSING', () => undefined],
  ['a triangle out of nowhere', CABIN, 'MESH-INDEX', (bytes) => set(bytes.length - 3, 0xff)(bytes)],
  ['bounds that are too small', CABIN, 'MESH-BOUNDS', (bytes) => (bytes.writeFloatLE(0, 20), bytes)],
  ['a flag of joints without any', CABIN, 'MESH-JOINTS', set(6, 1)],
  ['half a model', CRANE, 'MESH-SHORT', (bytes) => bytes.subarray(0, 200)],
  ['no model for a clip', CRANE, 'MODEL-MISSING', () => undefined],
  ['a turn that is none', TURN, 'CLIP-TURN', (bytes) => (bytes.writeInt16LE(9, bytes.length - 14), bytes)],
  ['another count of joints', TURN, 'CLIP-SHORT', set(8, 5)],
])('%s in %s gives %s', (_, path, code, change) => {
  expect(load(path, change)).toBe(code);
});

test('what lies far is told by its size and its checksum', () => {
  const near = whole.get(COLOUR)!;
  const far = whole.get(FAR)!;
  expect(near.readUInt32LE(16)).toBe(far.length - 16);
  expect(near.readUInt32LE(20)).toBe(crc32(far.subarray(16)));
});
