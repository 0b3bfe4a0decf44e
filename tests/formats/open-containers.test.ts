/** Open containers, each as an independent program or a short independent writer made it, and read back by one. */
import { execFileSync } from 'node:child_process';
import { createCipheriv, createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { sayFault } from '../../src/core/faults';
import {
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  recogniseFile,
  volumeBytes,
} from '../../src/core/recipe';
import { loadRecipe, loadRecipes } from '../../src/core/recipe/node';
import { ByteBuilder } from '../../demo/archives/byte-builder';

const RECIPES = join(__dirname, '..', '..', 'recipes');
const folder = mkdtempSync(join(tmpdir(), 'zero-latch-containers-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const FILES: readonly (readonly [path: string, bytes: Buffer])[] = [
  ['readme.txt', Buffer.from('Cabins leave every eight minutes. '.repeat(30))],
  ['cabin.dat', Buffer.from(Uint8Array.from({ length: 2000 }, (_, i) => (i * 31) ^ (i >> 3)))],
  ['empty.txt', Buffer.alloc(0)],
  ['signs.txt', Buffer.from('Mind the gap')],
];
const KEY = Uint8Array.from({ length: 32 }, (_, i) => 200 - i);
const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();

const python = (script: string, ...args: string[]) =>
  execFileSync('python3', ['-c', script, ...args], { encoding: 'utf8' });

/** The sample files on disk, for programs that want them there. */
function onDisk(name: string): string {
  const home = mkdtempSync(join(folder, name));
  for (const [path, bytes] of FILES) writeFileSync(join(home, path), bytes);
  return home;
}

interface Container {
  readonly recipe: string;
  readonly name: string;
  readonly make: () => Buffer | Uint8Array;
  readonly keys?: Readonly<Record<string, Uint8Array>>;
  /** What an independent reader finds: paths with their SHA-256. */
  readonly judge?: (file: string) => Record<string, string>;
}

const judged = (script: string) => (file: string) =>
  JSON.parse(
    python(
      `import sys,json,hashlib,zlib\nsha=lambda b:hashlib.sha256(b).hexdigest()\n${script}\nprint(json.dumps(out))`,
      file,
    ),
  ) as Record<string, string>;

function pck(version: 1 | 2, locked: boolean): Uint8Array {
  const padded = (path: string) => Math.ceil(path.length / 4) * 4;
  const pad16 = (bytes: Uint8Array) => Buffer.concat([bytes, Buffer.alloc((16 - (bytes.length % 16)) % 16)]);
  const cfb = (bytes: Uint8Array, iv: Uint8Array) => createCipheriv('aes-256-cfb', KEY, iv).update(pad16(bytes));
  const iv = Buffer.alloc(16, 9);
  const stored = FILES.map(([, bytes], i) => {
    if (!(locked && i === 0)) return bytes;
    return Buffer.from(new ByteBuilder().raw(md5(bytes)).u64(bytes.length).raw(iv).raw(cfb(bytes, iv)).bytes());
  });
  const rowsSize = FILES.reduce((sum, [path]) => sum + 4 + padded(path) + 32 + (version === 2 ? 4 : 0), 0);
  const head = version === 1 ? 88 : locked ? 100 + 40 : 100;
  const base = Math.ceil((head + (locked ? Math.ceil(rowsSize / 16) * 16 : rowsSize)) / 16) * 16;
  const rows = new ByteBuilder();
  let at = base;
  const places = stored.map((bytes) => {
    const place = at;
    at = Math.ceil((at + bytes.length) / 16) * 16;
    return place;
  });
  for (const [i, [path, bytes]] of FILES.entries()) {
    rows
      .u32(padded(path))
      .fixed(path, padded(path))
      .u64(places[i]! - (version === 2 ? base : 0))
      .u64(bytes.length)
      .raw(md5(bytes));
    if (version === 2) rows.u32(locked && i === 0 ? 1 : 0);
  }
  const out = new ByteBuilder().text('GDPC').u32(version).u32(4).u32(1).u32(2);
  if (version === 2) out.u32(locked ? 1 : 0).u64(base);
  out.fill(64).u32(FILES.length);
  if (locked) out.raw(md5(rows.bytes())).u64(rows.length).raw(iv).raw(cfb(rows.bytes(), iv));
  else out.raw(rows.bytes());
  for (const [i, bytes] of stored.entries()) out.fill(places[i]! - out.length).raw(bytes);
  return out.bytes();
}

const ZIP_JUDGE = judged(
  'import zipfile\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nout={n:sha(z.read(n)) for n in z.namelist()}',
);

const CONTAINERS: readonly Container[] = [
  {
    recipe: 'pack-archive',
    name: 'PACK with a directory in front of the files',
    make: () => {
      const out = new ByteBuilder()
        .text('PACK')
        .u32(12)
        .u32(FILES.length * 64);
      let at = 12 + FILES.length * 64;
      for (const [path, bytes] of FILES) {
        out.fixed(path, 56).u32(at).u32(bytes.length);
        at += bytes.length;
      }
      for (const [, bytes] of FILES) out.raw(bytes);
      return out.bytes();
    },
    judge: judged(
      'import struct\nb=open(sys.argv[1],"rb").read()\no,l=struct.unpack("<II",b[4:12])\nout={}\nfor i in range(o,o+l,64):\n n,p,s=struct.unpack("<56sII",b[i:i+64]); out[n.split(b"\\0")[0].decode()]=sha(b[p:p+s])',
    ),
  },
  {
    recipe: 'wad-lumps',
    name: 'WAD',
    make: () => {
      const out = new ByteBuilder().text('PWAD').u32(FILES.length);
      let at = 12;
      const places = FILES.map(([, bytes]) => {
        at = Math.ceil(at / 4) * 4;
        const place = at;
        at += bytes.length;
        return place;
      });
      out.u32(at);
      for (const [i, [, bytes]] of FILES.entries()) out.fill(places[i]! - out.length).raw(bytes);
      for (const [i, [path, bytes]] of FILES.entries())
        out.u32(places[i]!).u32(bytes.length).fixed(path.slice(0, 8).toUpperCase(), 8);
      return out.bytes();
    },
  },
  {
    recipe: 'grp-archive',
    name: 'GRP',
    make: () => {
      const out = new ByteBuilder().text('KenSilverman').u32(FILES.length);
      for (const [path, bytes] of FILES) out.fixed(path, 12).u32(bytes.length);
      for (const [, bytes] of FILES) out.raw(bytes);
      return out.bytes();
    },
  },
  { recipe: 'pck-archive', name: 'PCK version 1', make: () => pck(1, false) },
  { recipe: 'pck2-archive', name: 'PCK version 2, open', make: () => pck(2, false) },
  { recipe: 'pck2-archive', name: 'PCK version 2, locked', make: () => pck(2, true), keys: { content: KEY } },
  {
    recipe: 'rpa3-archive',
    name: 'RPA 3 as python3 packs it',
    make: () => {
      const home = onDisk('rpa');
      python(
        `import sys,os,pickle,zlib
key=0x5eed1234; index={}; data=b''; at=40
for n in sys.argv[2:]:
  b=open(os.path.join(sys.argv[1],n),'rb').read(); index[n]=[(at^key,len(b)^key,'')]; data+=b; at+=len(b)
packed=zlib.compress(pickle.dumps(index,2))
line=('RPA-3.0 %016x %08x\\n'%(at,key)).encode()
open(os.path.join(sys.argv[1],'out'),'wb').write(line+b'\\0'*(40-len(line))+data+packed)`,
        home,
        ...FILES.map(([path]) => path),
      );
      return readFileSync(join(home, 'out'));
    },
    judge: judged(`import pickle
b=open(sys.argv[1],'rb').read(); f=b.split(b'\\n')[0].split(); key=int(f[2],16)
index=pickle.loads(zlib.decompress(b[int(f[1],16):]))
out={n:sha(b[v[0][0]^key:(v[0][0]^key)+(v[0][1]^key)]) for n,v in index.items()}`),
  },
  ...(['GNU', 'PAX', 'USTAR'] as const).map((format): Container => ({
    recipe: 'tar-archive',
    name: `TAR as python3 writes it (${format})`,
    make: () => {
      const home = onDisk('tar');
      python(
        `import sys,os,tarfile
t=tarfile.open(os.path.join(sys.argv[1],'out'),'w',format=tarfile.${format}_FORMAT)
for n in sys.argv[2:]: t.add(os.path.join(sys.argv[1],n),n)
${format === 'USTAR' ? '' : "t.add(os.path.join(sys.argv[1],'signs.txt'),'a/long/folder/'*9+'signs.txt')"}
t.add(sys.argv[1],'folder',recursive=False)
t.close()`,
        home,
        ...FILES.map(([path]) => path),
      );
      return readFileSync(join(home, 'out'));
    },
    judge: judged(
      'import tarfile\nt=tarfile.open(sys.argv[1])\nout={m.name:sha(t.extractfile(m).read()) for m in t if m.isfile()}',
    ),
  })),
  ...(['tar-gzip', 'tar-xz', 'tar-zstd'] as const).map((recipe): Container => ({
    recipe,
    name: `packed TAR (${recipe})`,
    make: () => {
      const home = onDisk('packed');
      const tool = { 'tar-gzip': 'gzip', 'tar-xz': 'xz', 'tar-zstd': 'zstd -q' }[recipe];
      execFileSync('sh', ['-c', `tar -cf - ${FILES.map(([path]) => path).join(' ')} | ${tool} > out`], { cwd: home });
      return readFileSync(join(home, 'out'));
    },
  })),
  {
    recipe: 'zip-archive',
    name: 'ZIP as python3 writes it',
    make: () => {
      const home = onDisk('zip');
      python(
        `import sys,os,zipfile
z=zipfile.ZipFile(os.path.join(sys.argv[1],'out'),'w')
for i,n in enumerate(sys.argv[2:]): z.write(os.path.join(sys.argv[1],n),n,compress_type=[8,0][i%2])
z.comment=b'for the valley'; z.close()`,
        home,
        ...FILES.map(([path]) => path),
      );
      return readFileSync(join(home, 'out'));
    },
    judge: ZIP_JUDGE,
  },
  ...(['ZipCrypto', 'AES128', 'AES256'] as const).map((method): Container => ({
    recipe: 'zip-archive',
    name: `ZIP locked by 7z (${method})`,
    make: () => {
      const home = onDisk('locked');
      execFileSync('7z', ['a', '-tzip', '-pvalley', `-mem=${method}`, 'out.zip', ...FILES.map(([path]) => path)], {
        cwd: home,
      });
      return readFileSync(join(home, 'out.zip'));
    },
    keys: { password: Buffer.from('valley') },
    judge: (file) => {
      const out = mkdtempSync(join(folder, 'out-'));
      execFileSync('7z', ['x', '-pvalley', `-o${out}`, file]);
      return Object.fromEntries(
        FILES.map(([path]) => [
          path,
          createHash('sha256')
            .update(readFileSync(join(out, path)))
            .digest('hex'),
        ]),
      );
    },
  })),
];

describe.each(CONTAINERS.map((one) => [one.name, one] as const))('%s', (_, container) => {
  const open = async (bytes: Uint8Array) =>
    openArchive(await loadRecipe(join(RECIPES, `${container.recipe}.yaml`)), bufferSource(bytes, 'sample'), {
      keys: new Map(Object.entries(container.keys ?? {})),
    });

  test('is recognised, opens, and proves whole', async () => {
    const bytes = container.make();
    const { fits } = await recogniseFile(await loadRecipes(RECIPES), bufferSource(bytes, 'sample'));
    expect(fits.map(({ recipe }) => recipe.id)).toEqual([container.recipe]);
    const archive = await open(bytes);
    expect(archive.complaints.map(sayFault)).toEqual([]);
    expect(archive.entries.count).toBeGreaterThanOrEqual(FILES.length);
    for (const [i, [path, wanted]] of FILES.entries()) {
      const entry =
        Array.from({ length: archive.entries.count }, (__, k) => k).find((k) => archive.entries.path(k) === path) ?? i;
      expect(Buffer.compare(await collect(readEntry(archive, entry)), wanted)).toBe(0);
    }
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(
      [proof.bytes, proof.formulas, proof.identical, proof.changed].map(({ first }) => first && sayFault(first)),
    ).toEqual([undefined, undefined, undefined, undefined]);
    expect(proof.bytes.explained).toBe(proof.bytes.total);
    expect(proof.changed.equal).toBe(archive.entries.count);
  });

  test('a changed entry is read by an independent reader, and the others are as they were', async () => {
    const archive = await open(container.make());
    const changed = Buffer.from('There is snow on the line. '.repeat(20));
    const entry =
      Array.from({ length: archive.entries.count }, (__, k) => k).find(
        (k) => archive.entries.path(k) === FILES[0]![0],
      ) ?? 0;
    const edits = { ...NO_EDITS, replace: new Map([[entry, bufferSource(changed)]]) };
    const plan = await planRebuild(archive, edits, { scratch: memoryScratch() });
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    const again = await open(bytes);
    expect(Buffer.compare(await collect(readEntry(again, entry)), changed)).toBe(0);
    if (container.judge === undefined) return;
    const file = join(mkdtempSync(join(folder, 'judged-')), 'sample.zip');
    writeFileSync(file, bytes);
    const found = container.judge(file);
    const wanted = new Map(FILES.map(([path, plain]) => [path, path === FILES[0]![0] ? changed : plain]));
    for (const [path, plain] of wanted)
      expect([path, found[path]]).toEqual([path, createHash('sha256').update(plain).digest('hex')]);
  });
});
