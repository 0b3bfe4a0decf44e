/** Open containers, each as an independent program or a short independent writer made it, and read back by one. */
import { execFileSync } from 'node:child_process';
import { createCipheriv, createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { bufferSource, collect, memoryScratch } from '../../src/core/bytes';
import { sayFault } from '../../src/core/faults';
import {
  LAYOUTS,
  NO_EDITS,
  openArchive,
  planRebuild,
  prove,
  readEntry,
  recogniseFile,
  volumeBytes,
  type Archive,
} from '../../src/core/recipe';
import { loadRecipe, loadRecipes } from '../../src/core/recipe/node';
import { ByteBuilder } from '../../demo/archives/byte-builder';
import { sameCases } from './same-cases';

const RECIPES = join(__dirname, '..', '..', 'recipes');
const folder = mkdtempSync(join(tmpdir(), 'zero-latch-containers-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

type Files = readonly (readonly [path: string, bytes: Buffer])[];

const SAMPLE: Files = [
  ['readme.txt', Buffer.from('Cabins leave every eight minutes. '.repeat(30))],
  ['cabin.dat', Buffer.from(Uint8Array.from({ length: 2000 }, (_, i) => (i * 31) ^ (i >> 3)))],
  ['empty.txt', Buffer.alloc(0)],
  ['signs.txt', Buffer.from('Mind the gap')],
];
/** What the writers below put into their containers. */
let files: Files = SAMPLE;
const KEY = Uint8Array.from({ length: 32 }, (_, i) => 200 - i);
const md5 = (bytes: Uint8Array) => createHash('md5').update(bytes).digest();

const python = (script: string, ...args: string[]) =>
  execFileSync('python3', ['-c', script, ...args], { encoding: 'utf8' });

/** The sample files on disk, for programs that want them there. */
function onDisk(name: string): string {
  const home = mkdtempSync(join(folder, name));
  for (const [path, bytes] of files) writeFileSync(join(home, path), bytes);
  return home;
}

interface Container {
  readonly recipe: string;
  readonly name: string;
  readonly make: () => Buffer | Uint8Array;
  readonly keys?: Readonly<Record<string, Uint8Array>>;
  /** What a path is called in the container. */
  readonly nameOf?: (path: string) => string;
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
  const stored = files.map(([, bytes], i) => {
    if (!(locked && i === 0)) return bytes;
    return Buffer.from(new ByteBuilder().raw(md5(bytes)).u64(bytes.length).raw(iv).raw(cfb(bytes, iv)).bytes());
  });
  const rowsSize = files.reduce((sum, [path]) => sum + 4 + padded(path) + 32 + (version === 2 ? 4 : 0), 0);
  const head = version === 1 ? 88 : locked ? 100 + 40 : 100;
  const base = Math.ceil((head + (locked ? Math.ceil(rowsSize / 16) * 16 : rowsSize)) / 16) * 16;
  const rows = new ByteBuilder();
  let at = base;
  const places = stored.map((bytes) => {
    const place = at;
    at = Math.ceil((at + bytes.length) / 16) * 16;
    return place;
  });
  for (const [i, [path, bytes]] of files.entries()) {
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
  out.fill(64).u32(files.length);
  if (locked) out.raw(md5(rows.bytes())).u64(rows.length).raw(iv).raw(cfb(rows.bytes(), iv));
  else out.raw(rows.bytes());
  for (const [i, bytes] of stored.entries()) out.fill(places[i]! - out.length).raw(bytes);
  return out.bytes();
}

const ZIP_JUDGE = judged(
  'import zipfile\nz=zipfile.ZipFile(sys.argv[1])\nassert z.testzip() is None\nout={n:sha(z.read(n)) for n in z.namelist()}',
);

/** Places, sizes and the MD5 of every file, by nothing but python's own struct and hashlib. */
const PCK_JUDGE = judged(
  [
    'import struct',
    'b=open(sys.argv[1],"rb").read()',
    'assert b[:4]==b"GDPC"',
    'v,=struct.unpack("<I",b[4:8])',
    'base=struct.unpack("<Q",b[24:32])[0] if v==2 else 0',
    'p=96 if v==2 else 84',
    'n,=struct.unpack("<I",b[p:p+4]); p+=4',
    'out={}',
    'for i in range(n):',
    ' l,=struct.unpack("<I",b[p:p+4]); m=b[p+4:p+4+l].split(b"\\0")[0].decode(); p+=4+l',
    ' o,s=struct.unpack("<QQ",b[p:p+16]); d=b[p+16:p+32]; p+=32+(4 if v==2 else 0)',
    ' f=b[base+o:base+o+s]; assert hashlib.md5(f).digest()==d; out[m]=sha(f)',
  ].join('\n'),
);

const CONTAINERS: readonly Container[] = [
  {
    recipe: 'pack-archive',
    name: 'PACK with a directory in front of the files',
    make: () => {
      const out = new ByteBuilder()
        .text('PACK')
        .u32(12)
        .u32(files.length * 64);
      let at = 12 + files.length * 64;
      for (const [path, bytes] of files) {
        out.fixed(path, 56).u32(at).u32(bytes.length);
        at += bytes.length;
      }
      for (const [, bytes] of files) out.raw(bytes);
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
      const out = new ByteBuilder().text('PWAD').u32(files.length);
      let at = 12;
      const places = files.map(([, bytes]) => {
        at = Math.ceil(at / 4) * 4;
        const place = at;
        at += bytes.length;
        return place;
      });
      out.u32(at);
      for (const [i, [, bytes]] of files.entries()) out.fill(places[i]! - out.length).raw(bytes);
      for (const [i, [path, bytes]] of files.entries())
        out.u32(places[i]!).u32(bytes.length).fixed(path.slice(0, 8).toUpperCase(), 8);
      return out.bytes();
    },
    nameOf: (path) => path.slice(0, 8).toUpperCase(),
    judge: judged(
      'import struct\nb=open(sys.argv[1],"rb").read()\nassert b[:4]==b"PWAD"\nn,d=struct.unpack("<II",b[4:12])\nout={}\nfor i in range(n):\n p,s,m=struct.unpack("<II8s",b[d+i*16:d+i*16+16]); out[m.split(b"\\0")[0].decode()]=sha(b[p:p+s])',
    ),
  },
  {
    recipe: 'grp-archive',
    name: 'GRP',
    make: () => {
      const out = new ByteBuilder().text('KenSilverman').u32(files.length);
      for (const [path, bytes] of files) out.fixed(path, 12).u32(bytes.length);
      for (const [, bytes] of files) out.raw(bytes);
      return out.bytes();
    },
    nameOf: (path) => path.slice(0, 12),
    judge: judged(
      'import struct\nb=open(sys.argv[1],"rb").read()\nn,=struct.unpack("<I",b[12:16])\np=16+n*16\nout={}\nfor i in range(n):\n m,s=struct.unpack("<12sI",b[16+i*16:32+i*16]); out[m.split(b"\\0")[0].decode()]=sha(b[p:p+s]); p+=s',
    ),
  },
  { recipe: 'pck-archive', name: 'PCK version 1', make: () => pck(1, false), judge: PCK_JUDGE },
  { recipe: 'pck2-archive', name: 'PCK version 2, open', make: () => pck(2, false), judge: PCK_JUDGE },
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
        ...files.map(([path]) => path),
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
${format === 'USTAR' ? '' : "t.add(os.path.join(sys.argv[1],sys.argv[2]),'a/long/folder/'*9+sys.argv[2])"}
t.add(sys.argv[1],'folder',recursive=False)
t.close()`,
        home,
        ...files.map(([path]) => path),
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
      execFileSync('sh', ['-c', `tar -cf - ${files.map(([path]) => path).join(' ')} | ${tool} > out`], { cwd: home });
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
        ...files.map(([path]) => path),
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
      execFileSync('7z', ['a', '-tzip', '-pvalley', `-mem=${method}`, 'out.zip', ...files.map(([path]) => path)], {
        cwd: home,
      });
      return readFileSync(join(home, 'out.zip'));
    },
    keys: { password: Buffer.from('valley') },
    judge: (file) => {
      const out = mkdtempSync(join(folder, 'out-'));
      execFileSync('7z', ['x', '-pvalley', `-o${out}`, file]);
      return Object.fromEntries(
        files.map(([path]) => [
          path,
          createHash('sha256')
            .update(readFileSync(join(out, path)))
            .digest('hex'),
        ]),
      );
    },
  })),
];

/** Entries that are no folders. */
const filesOf = ({ entries }: Archive) =>
  Array.from({ length: entries.count }, (_, i) => i).filter((i) => !entries.isDirectory(i));

/** Names that every container can hold, and bytes of which some pack well. */
const someFiles: fc.Arbitrary<Files> = fc
  .uniqueArray(
    fc.tuple(
      fc.stringMatching(/^[a-z]{1,8}$/).map((name) => `${name}.dat`),
      fc.oneof(
        fc.uint8Array({ maxLength: 3000 }),
        fc.tuple(fc.nat(255), fc.nat(5000)).map(([byte, length]) => new Uint8Array(length).fill(byte)),
      ),
    ),
    { selector: ([name]) => name, minLength: 1, maxLength: 8 },
  )
  .map((made) => made.map(([name, bytes]) => [name, Buffer.from(bytes)] as const));

describe.each(CONTAINERS.map((one) => [one.name, one] as const))('%s', (_, container) => {
  const open = async (bytes: Uint8Array) =>
    openArchive(await loadRecipe(join(RECIPES, `${container.recipe}.yaml`)), bufferSource(bytes, 'sample'), {
      keys: new Map(Object.entries(container.keys ?? {})),
    });

  afterEach(() => (files = SAMPLE));

  test('is recognised, opens, and proves whole', async () => {
    const bytes = container.make();
    const { fits } = await recogniseFile(await loadRecipes(RECIPES), bufferSource(bytes, 'sample'));
    expect(fits.map(({ recipe }) => recipe.id)).toEqual([container.recipe]);
    const archive = await open(bytes);
    expect(archive.complaints.map(sayFault)).toEqual([]);
    expect(archive.entries.count).toBeGreaterThanOrEqual(SAMPLE.length);
    for (const [i, [path, wanted]] of SAMPLE.entries()) {
      const entry =
        Array.from({ length: archive.entries.count }, (__, k) => k).find((k) => archive.entries.path(k) === path) ?? i;
      expect(Buffer.compare(await collect(readEntry(archive, entry)), wanted)).toBe(0);
    }
    const proof = await prove(archive, { scratch: memoryScratch() });
    expect(
      [proof.bytes, proof.formulas, proof.identical, proof.changed].map(({ first }) => first && sayFault(first)),
    ).toEqual([undefined, undefined, undefined, undefined]);
    expect(proof.bytes.explained).toBe(proof.bytes.total);
    expect(proof.changed.equal).toBe(filesOf(archive).length);
  });

  test('a changed entry is read by an independent reader, and the others are as they were', async () => {
    const archive = await open(container.make());
    const changed = Buffer.from('There is snow on the line. '.repeat(20));
    const entry =
      Array.from({ length: archive.entries.count }, (__, k) => k).find(
        (k) => archive.entries.path(k) === SAMPLE[0]![0],
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
    const wanted = new Map(SAMPLE.map(([path, plain]) => [path, path === SAMPLE[0]![0] ? changed : plain]));
    for (const [path, plain] of wanted)
      expect([path, found[container.nameOf?.(path) ?? path]]).toEqual([
        path,
        createHash('sha256').update(plain).digest('hex'),
      ]);
  });

  test('an entry changed, one removed and one added are read by an independent reader, in every layout', async () => {
    for (const layout of LAYOUTS.filter((one) => one !== 'patch')) {
      files = SAMPLE;
      const archive = await open(container.make());
      const named = (path: string) => container.nameOf?.(path) ?? path;
      const entryOf = (path: string) =>
        Array.from({ length: archive.entries.count }, (__, k) => k).find(
          (k) => archive.entries.path(k) === named(path),
        )!;
      const changed = Buffer.from('There is snow on the line. '.repeat(20));
      const added = Buffer.from('A new cabin.');
      const edits = {
        ...NO_EDITS,
        replace: new Map([[entryOf('readme.txt'), bufferSource(changed)]]),
        remove: new Set([entryOf('signs.txt')]),
        add: [{ path: named('new.txt'), bytes: bufferSource(added) }],
      };
      const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
      const bytes = await collect(volumeBytes(plan.volumes[0]!));
      if (container.judge === undefined) continue;
      const file = join(mkdtempSync(join(folder, 'edited-')), 'sample.zip');
      writeFileSync(file, bytes);
      files = [
        ['readme.txt', changed],
        ['cabin.dat', SAMPLE[1]![1]],
        ['empty.txt', SAMPLE[2]![1]],
        ['new.txt', added],
      ];
      const found = container.judge(file);
      for (const [path, plain] of files)
        expect([path, found[named(path)]]).toEqual([path, createHash('sha256').update(plain).digest('hex')]);
      expect(Object.keys(found)).not.toContain(named('signs.txt'));
    }
  });

  test('holds for whatever the independent writer packs, in every layout', async () => {
    await fc.assert(
      fc.asyncProperty(someFiles, fc.nat(), fc.constantFrom(...LAYOUTS), async (made, seed, layout) => {
        files = made;
        const archive = await open(container.make());
        expect(archive.complaints.map(sayFault)).toEqual([]);
        const proof = await prove(archive, { scratch: memoryScratch() });
        expect(
          [proof.bytes, proof.formulas, proof.identical, proof.changed].map(({ first }) => first && sayFault(first)),
        ).toEqual([undefined, undefined, undefined, undefined]);
        const changed = Buffer.from('snow '.repeat(seed % 400));
        const choice = filesOf(archive);
        const entry = choice[seed % choice.length]!;
        const edits = { ...NO_EDITS, replace: new Map([[entry, bufferSource(changed)]]) };
        const plan = await planRebuild(archive, edits, { layout, scratch: memoryScratch() });
        // A written file is still told by its first bytes, whatever became of the first entry.
        const again = await open(await collect(volumeBytes(plan.volumes[0]!)));
        expect(again.complaints.map(sayFault)).toEqual([]);
        expect(again.entries.count).toBe(layout === 'patch' ? 1 : archive.entries.count);
        for (let i = 0; i < again.entries.count; i++) {
          const wanted = layout === 'patch' || i === entry ? changed : await collect(readEntry(archive, i));
          expect(Buffer.compare(await collect(readEntry(again, i)), wanted)).toBe(0);
        }
      }),
      sameCases(5),
    );
  });
});

test('a ZIP whose first entry is removed is still told by its first bytes', async () => {
  const recipe = await loadRecipe(join(RECIPES, 'zip-archive.yaml'));
  const zip = CONTAINERS.find(({ name }) => name === 'ZIP as python3 writes it')!;
  const archive = await openArchive(recipe, bufferSource(zip.make(), 'sample'));
  for (const layout of ['keep', 'append', 'afresh'] as const) {
    const plan = await planRebuild(
      archive,
      { ...NO_EDITS, remove: new Set([0]) },
      { layout, scratch: memoryScratch() },
    );
    const bytes = await collect(volumeBytes(plan.volumes[0]!));
    expect(Buffer.from(bytes.subarray(0, 4)).toString('latin1')).toBe('PK\u0003\u0004');
    const file = join(mkdtempSync(join(folder, 'first-')), 'sample.zip');
    writeFileSync(file, bytes);
    expect(Object.keys(zip.judge!(file))).toEqual(SAMPLE.slice(1).map(([path]) => path));
  }
});

describe('maps of a WAD', () => {
  const LUMPS = [
    ['PLAYPAL', 'colours'],
    ['MAP01', ''],
    ['THINGS', 'one'],
    ['LINEDEFS', 'lines'],
    ['MAP02', ''],
    ['THINGS', 'another'],
    ['TITLEPIC', 'picture'],
  ] as const;
  const open = async (bytes?: Uint8Array) => {
    const body = new ByteBuilder();
    const rows = new ByteBuilder();
    for (const [name, text] of LUMPS) {
      rows
        .u32(12 + body.bytes().length)
        .u32(text.length)
        .raw(Buffer.from(name.padEnd(8, '\0')));
      body.raw(Buffer.from(text.padEnd(Math.ceil(text.length / 4) * 4, '\0')));
    }
    const head = new ByteBuilder()
      .raw(Buffer.from('PWAD'))
      .u32(LUMPS.length)
      .u32(12 + body.bytes().length);
    const whole = Buffer.concat([head.bytes(), body.bytes(), rows.bytes()]);
    return openArchive(await loadRecipe(join(RECIPES, 'wad-lumps.yaml')), bufferSource(bytes ?? whole, 'sample.wad'));
  };
  const paths = ({ entries }: Archive) => Array.from({ length: entries.count }, (_, i) => entries.path(i));
  const PATHS = ['PLAYPAL', 'MAP01', 'MAP01/THINGS', 'MAP01/LINEDEFS', 'MAP02', 'MAP02/THINGS', 'TITLEPIC'];

  test('are folders with their lumps, and each can be replaced by itself', async () => {
    const archive = await open();
    expect(archive.complaints.map(sayFault)).toEqual([]);
    expect(paths(archive)).toEqual(PATHS);
    const edits = { ...NO_EDITS, replace: new Map([[5, bufferSource(Buffer.from('moved things'))]]) };
    const plan = await planRebuild(archive, edits, { scratch: memoryScratch() });
    const again = await open(await collect(volumeBytes(plan.volumes[0]!)));
    expect(paths(again)).toEqual(PATHS);
    expect(Buffer.from(await collect(readEntry(again, 5))).toString()).toBe('moved things');
    expect(Buffer.from(await collect(readEntry(again, 2))).toString()).toBe('one');
  });

  test('take a new lump behind their last, and whatever else is added is by itself', async () => {
    const archive = await open();
    const scratch = memoryScratch();
    const added = (path: string) => ({ ...NO_EDITS, add: [{ path, bytes: bufferSource(Buffer.from('new')) }] });
    const nodes = await planRebuild(archive, added('MAP01/NODES'), { scratch });
    const withNodes = await open(await collect(volumeBytes(nodes.volumes[0]!)));
    expect(paths(withNodes)).toEqual([...PATHS.slice(0, 4), 'MAP01/NODES', ...PATHS.slice(4)]);
    const bytes = bufferSource(Buffer.from('new'));
    const whole = ['MAP03', 'MAP03/THINGS', 'MAP03/NODES'].map((path) => ({ path, bytes }));
    const map = await planRebuild(archive, { ...NO_EDITS, add: whole }, { scratch });
    expect(paths(await open(await collect(volumeBytes(map.volumes[0]!))))).toEqual([
      ...PATHS,
      ...whole.map(({ path }) => path),
    ]);
    await expect(planRebuild(archive, added('MAP03/NODES'), { scratch })).rejects.toThrow(/a row near its own/);
    const plan = await planRebuild(archive, added('CREDIT'), { scratch });
    const again = await open(await collect(volumeBytes(plan.volumes[0]!)));
    expect(paths(again)).toEqual([...PATHS, 'CREDIT']);
  });
});
