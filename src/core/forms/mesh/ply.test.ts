import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { kindOf } from '../../game';
import { readOpenMesh } from './open-mesh';

const folder = mkdtempSync(join(tmpdir(), 'zero-latch-ply-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A square and a triangle beside it, written by python in each of the three ways a PLY may have. */
const WRITER = `
import struct, sys
V = [(0,0,0, 0,0,1, 0,0, 255,0,0), (1,0,0, 0,0,1, 1,0, 0,255,0), (1,1,0, 0,0,1, 1,1, 0,0,255), (0,1,0, 0,0,1, 0,1, 255,255,255), (2,0,-0.5, 0,0,1, 0.5,0.25, 51,102,153)]
F = [[0,1,2,3],[1,4,2]]
for fmt in ('ascii','binary_little_endian','binary_big_endian'):
    head = ('ply\\nformat %s 1.0\\ncomment made by hand\\nelement vertex 5\\n' % fmt
      + ''.join('property float %s\\n' % n for n in 'x y z nx ny nz s t'.split())
      + ''.join('property uchar %s\\n' % n for n in 'red green blue'.split())
      + 'element edge 1\\nproperty int vertex1\\nproperty list uchar short odd\\n'
      + 'element face 2\\nproperty list uchar int vertex_indices\\nproperty uchar flags\\nend_header\\n').encode()
    if fmt == 'ascii':
        body = '\\n'.join(' '.join(map(str, v)) for v in V) + '\\n7 2 -1 -2\\n' + ''.join('%d %s 9\\n' % (len(f), ' '.join(map(str, f))) for f in F)
        body = body.encode()
    else:
        e = '<' if 'little' in fmt else '>'
        body = b''.join(struct.pack(e + '8f3B', *v) for v in V) + struct.pack(e + 'iB2h', 7, 2, -1, -2)
        body += b''.join(struct.pack(e + 'B%diB' % len(f), len(f), *f, 9) for f in F)
    open(sys.argv[1] + '/' + fmt + '.ply', 'wb').write(head + body)
`.replaceAll('\\\\', '\\');
beforeAll(() => execFileSync('python3', ['-c', WRITER, folder]));

const file = (format: string) => readFileSync(join(folder, `${format}.ply`));

test.each(['ascii', 'binary_little_endian', 'binary_big_endian'])('a PLY in %s is read', async (format) => {
  expect(kindOf('scan', file(format))).toBe('mesh');
  const { levels, materials } = await readOpenMesh(file(format), 'scan.ply');
  expect(materials).toEqual([]);
  const part = levels[0]![0]!;
  expect([...part.positions.slice(0, 6), ...part.positions.slice(12)]).toEqual([0, 0, 0, 1, 0, 0, 2, 0, -0.5]);
  expect([...part.normals!.slice(0, 3)]).toEqual([0, 0, 1]);
  // v points down here.
  expect([...part.uvs!.slice(0, 4), ...part.uvs!.slice(8)]).toEqual([0, 1, 1, 1, 0.5, 0.75]);
  expect([...part.colours!.slice(16)].map((value) => Math.round(value * 255))).toEqual([51, 102, 153, 255]);
  expect([...part.indices]).toEqual([0, 1, 2, 0, 2, 3, 1, 4, 2]);
});

test('what is wrong in a PLY is reported with its place', async () => {
  const cut = file('binary_little_endian');
  await expect(readOpenMesh(cut.subarray(0, cut.length - 3), 'a.ply')).rejects.toMatchObject({
    fault: { code: 'cut-short', offset: cut.length - 5 },
  });
  const text = file('ascii').toString();
  const read = (of: string) => readOpenMesh(Buffer.from(of), 'a.ply');
  await expect(read(text.replace('3 1 4 2 9', '3 1 9 2 9'))).rejects.toThrow(/vertex 9/);
  await expect(read(text.replace('property float x', 'property real x'))).rejects.toMatchObject({ fault: { line: 5 } });
  await expect(read(text.replace('element vertex 5', 'element vertex 5000000000'))).rejects.toMatchObject({
    fault: { line: 4 },
  });
  // A small file must not ask for gigabytes: many properties of many vertices.
  const wide = 'property float more\n'.repeat(2000);
  const many = text.replace('element vertex 5', 'element vertex 1000').replace('property float nx\n', wide);
  await expect(read(many)).rejects.toMatchObject({ fault: { expected: expect.stringContaining('values in a file') } });
  await expect(read(text.replace('7 2 -1', '7 two -1'))).rejects.toMatchObject({ fault: { found: 'two' } });
});
