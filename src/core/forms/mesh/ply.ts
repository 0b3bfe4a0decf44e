/** PLY, as text or binary in either byte order: vertices with their attributes, and faces of three corners or more. */
import { FormatError } from '../../faults';
import type { MeshPart } from './mesh';
import type { OpenMesh } from './mesh-model';

/** Bytes and the way to read each kind of number, by both names it has in headers. */
const NUMBERS: Readonly<Record<string, readonly [bytes: number, get: keyof DataView & `get${string}`]>> = {
  ...{ char: [1, 'getInt8'], int8: [1, 'getInt8'], uchar: [1, 'getUint8'], uint8: [1, 'getUint8'] },
  ...{ short: [2, 'getInt16'], int16: [2, 'getInt16'], ushort: [2, 'getUint16'], uint16: [2, 'getUint16'] },
  ...{ int: [4, 'getInt32'], int32: [4, 'getInt32'], uint: [4, 'getUint32'], uint32: [4, 'getUint32'] },
  ...{ float: [4, 'getFloat32'], float32: [4, 'getFloat32'], double: [8, 'getFloat64'], float64: [8, 'getFloat64'] },
};
/** The largest value of whole numbers that colours are kept as. */
const WHOLE: Readonly<Record<string, number>> = { uchar: 255, uint8: 255, ushort: 65_535, uint16: 65_535 };

interface Property {
  readonly name: string;
  readonly as: string;
  /** The kind of the count of a list. */
  readonly count: string | undefined;
}

interface Element {
  readonly name: string;
  readonly count: number;
  readonly properties: Property[];
}

/** Takes one number after the other. */
type Next = (as: string) => number;

/** @throws FormatError `wrong-kind` or `cut-short`, with the line of the header or the offset */
export function readPly(bytes: Uint8Array, file: string): OpenMesh {
  const { format, elements, bodyAt } = readHeader(bytes, file);
  const next = format === 'ascii' ? wordsOf(bytes, bodyAt, file) : binaryOf(bytes, bodyAt, format, file);
  let vertices: ReadonlyMap<string, Float32Array> | undefined;
  let asked: Element | undefined;
  const indices: number[] = [];
  for (const element of elements) {
    if (element.name === 'vertex') {
      asked = element;
      vertices = readVertices(element, next);
    } else readFaces(element, next, indices);
  }
  const count = asked?.count ?? 0;
  const beyond = indices.find((corner) => !(corner >= 0 && corner < count));
  if (vertices === undefined || indices.length === 0 || beyond !== undefined)
    throw new FormatError({
      code: 'wrong-kind',
      file,
      what: beyond === undefined ? 'there are no faces in it' : `a corner is vertex ${beyond}`,
      ...(beyond === undefined ? {} : { expected: `one of ${count} vertices` }),
      hint: 'Is it whole? Export it again.',
    });
  const part = partOf(vertices, asked!, Uint32Array.from(indices));
  return { materials: [], joints: [], clips: [], levels: [[part]] };
}

function readHeader(bytes: Uint8Array, file: string): { format: string; elements: Element[]; bodyAt: number } {
  const wrong = (line: number, expected: string, found: string) =>
    new FormatError({ code: 'wrong-kind', file, line, what: 'the header of the PLY is not right', expected, found });
  const text = Buffer.from(bytes.subarray(0, 64 << 10)).toString('latin1');
  const end = /end_header\r?\n/.exec(text);
  if (!text.startsWith('ply') || end === null) throw wrong(1, 'ply … end_header', JSON.stringify(text.slice(0, 16)));
  const elements: Element[] = [];
  let format = '';
  for (const [i, line] of text.slice(0, end.index).split(/\r?\n/).entries()) {
    const [word, ...rest] = line.trim().split(/\s+/);
    if (word === 'format') format = rest[0] ?? '';
    else if (word === 'element') elements.push({ name: rest[0] ?? '', count: Number(rest[1]), properties: [] });
    else if (word === 'property') {
      const [first, ...names] = rest;
      const property =
        first === 'list'
          ? { count: names[0], as: names[1] ?? '', name: names[2] ?? '' }
          : { count: undefined, as: first ?? '', name: names[0] ?? '' };
      for (const kind of [property.as, property.count ?? property.as])
        if (NUMBERS[kind] === undefined) throw wrong(i + 1, Object.keys(NUMBERS).join(', '), kind);
      elements.at(-1)?.properties.push(property);
    }
    const last = elements.at(-1);
    if (last !== undefined && !(Number.isInteger(last.count) && last.count >= 0 && last.count <= bytes.length))
      throw wrong(i + 1, 'a count that fits the file', line.trim());
  }
  // Each value takes a byte or more: what cannot be there is refused before anything of its size is made.
  const values = elements.reduce((sum, { count, properties }) => sum + count * properties.length, 0);
  if (values > bytes.length)
    throw wrong(
      2,
      `at most ${bytes.length.toLocaleString('en')} values in a file of that size`,
      values.toLocaleString('en'),
    );
  if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
    throw wrong(2, 'ascii, binary_little_endian or binary_big_endian', format);
  return { format, elements, bodyAt: end.index + end[0].length };
}

function wordsOf(bytes: Uint8Array, bodyAt: number, file: string): Next {
  const words = Buffer.from(bytes.subarray(bodyAt)).toString('latin1').matchAll(/\S+/g);
  return () => {
    const { value, done } = words.next();
    const number = done === true ? NaN : Number(value[0]);
    if (Number.isNaN(number))
      throw new FormatError({
        code: done === true ? 'cut-short' : 'wrong-kind',
        file,
        offset: done === true ? bytes.length : bodyAt + value.index,
        expected: 'a number',
        found: done === true ? 'the end of the file' : value[0].slice(0, 40),
      });
    return number;
  };
}

function binaryOf(bytes: Uint8Array, bodyAt: number, format: string, file: string): Next {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = bodyAt;
  return (as) => {
    const [size, get] = NUMBERS[as]!;
    if (at + size > bytes.length)
      throw new FormatError({
        code: 'cut-short',
        file,
        offset: at,
        expected: `${size} bytes`,
        found: 'the end of the file',
      });
    const value = (view[get] as (at: number, little: boolean) => number).call(view, at, format !== 'binary_big_endian');
    at += size;
    return value;
  };
}

function readVertices({ count, properties }: Element, next: Next): ReadonlyMap<string, Float32Array> {
  const columns = new Map(properties.map(({ name }) => [name, new Float32Array(count)]));
  for (let i = 0; i < count; i++)
    for (const { name, as, count: many } of properties)
      if (many === undefined) columns.get(name)![i] = next(as);
      else for (let left = next(many); left > 0; left--) next(as);
  return columns;
}

/** Faces as fans of triangles; of any other element nothing is kept. */
function readFaces({ name, count, properties }: Element, next: Next, indices: number[]): void {
  for (let i = 0; i < count; i++)
    for (const { name: property, as, count: many } of properties) {
      if (many === undefined) {
        next(as);
        continue;
      }
      const isCorners = name === 'face' && /^vertex_ind(ex|ices)$/.test(property);
      const corners: number[] = [];
      for (let left = next(many); left > 0; left--) corners.push(next(as));
      if (isCorners)
        for (let corner = 2; corner < corners.length; corner++)
          indices.push(corners[0]!, corners[corner - 1]!, corners[corner]!);
    }
}

function partOf(
  columns: ReadonlyMap<string, Float32Array>,
  { count, properties }: Element,
  indices: Uint32Array,
): MeshPart {
  const together = (...names: readonly (readonly string[])[]): Float32Array | undefined => {
    const found = names.find((some) => some.every((name) => columns.has(name)));
    if (found === undefined) return undefined;
    const out = new Float32Array(count * found.length);
    for (const [j, name] of found.entries())
      for (let i = 0; i < count; i++) out[i * found.length + j] = columns.get(name)![i]!;
    return out;
  };
  const rgb = together(['red', 'green', 'blue']);
  const most = WHOLE[properties.find(({ name }) => name === 'red')?.as ?? ''] ?? 1;
  const alpha = columns.get('alpha');
  const uvs = together(['s', 't'], ['u', 'v'], ['texture_u', 'texture_v']);
  return {
    material: -1,
    positions: together(['x', 'y', 'z']) ?? new Float32Array(count * 3),
    normals: together(['nx', 'ny', 'nz']),
    // Its v points up.
    uvs: uvs?.map((value, i) => (i % 2 === 1 ? 1 - value : value)),
    colours:
      rgb === undefined
        ? undefined
        : Float32Array.from({ length: count * 4 }, (_, i) =>
            i % 4 === 3 ? (alpha === undefined ? 1 : alpha[i >> 2]! / most) : rgb[(i >> 2) * 3 + (i % 4)]! / most,
          ),
    indices,
  };
}
