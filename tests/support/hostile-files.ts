/** Damaged and hostile files and recipes as a stranger might send them. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { writeHold } from '../../demo/archives/hold';

export interface HostileCase {
  readonly name: string;
  readonly args: readonly string[];
  /** What the message has to say. */
  readonly says: RegExp;
}

const KEY = Buffer.alloc(32, 7);
const keyArgs = ['--key', `content=${KEY.toString('hex')}`];

/** Writes the files into `folder`. */
export function hostileCases(folder: string): HostileCase[] {
  mkdirSync(folder, { recursive: true });
  const file = (name: string, bytes: Uint8Array | string) => {
    writeFileSync(join(folder, name), bytes);
    return join(folder, name);
  };
  const whole = writeHold(
    Array.from({ length: 300 }, (_, i) => ({ path: `d/e${i}.txt`, bytes: Buffer.from(`entry ${i} `.repeat(40)) })),
    { key: KEY, release: 'hostile', built: 1 },
  );
  const changed = (name: string, change: (bytes: Buffer) => void) => {
    const bytes = Buffer.from(whole);
    change(bytes);
    return file(name, bytes);
  };
  const out = join(folder, 'out');
  return [
    {
      name: 'a truncated archive',
      args: ['list', file('cut.hold', whole.subarray(0, 9000)), ...keyArgs],
      says: /cut off/,
    },
    {
      name: 'a count of four thousand million rows',
      args: ['list', changed('count.hold', (bytes) => bytes.writeUInt32LE(0xffffffff, 8)), ...keyArgs],
      says: /more rows than there is room for/,
    },
    {
      name: 'an index behind the end of the file',
      args: ['list', changed('far.hold', (bytes) => bytes.writeBigUInt64LE(1n << 50n, 16)), ...keyArgs],
      says: /outside|behind the end|out of the file/i,
    },
    {
      name: 'a flipped byte in a packed entry',
      args: ['take', changed('flip.hold', (bytes) => (bytes[80]! ^= 0xff)), ...keyArgs, '--to', out],
      says: /e0\.txt|unpack|checksum/i,
    },
    {
      name: 'a bomb: ten thousand million zeros in a ZIP',
      args: ['take', file('bomb.zip', zipBomb()), '--to', out],
      says: /too large|limit|more than/i,
    },
    {
      name: 'a region that unpacks without end',
      args: ['list', file('deep.bin', regionBomb()), '--recipe', file('deep.yaml', REGION_BOMB)],
      says: /limit/i,
    },
    {
      name: 'tables that point to each other in circles',
      args: ['list', file('circle.bin', Buffer.of(1, 0, 0, 0)), '--recipe', file('circle.yaml', CIRCLE)],
      says: /limit/i,
    },
    {
      name: 'a step that never ends',
      args: ['list', file('spin.bin', Buffer.alloc(8)), '--recipe', file('spin.yaml', step('for (;;) ;'))],
      says: /takes too long/,
    },
    {
      name: 'a step that eats memory',
      args: [
        'list',
        file('eat.bin', Buffer.alloc(8)),
        '--recipe',
        file('eat.yaml', step('const all = []; for (;;) all.push(new Uint8Array(1e6));')),
      ],
      says: /too much memory|takes too long/,
    },
    {
      name: 'rows to the end of 64 MB',
      args: ['list', file('rows.bin', Buffer.alloc(64 << 20)), '--recipe', file('rows.yaml', MANY_ROWS)],
      says: /limit/i,
    },
    { name: 'noise', args: ['list', file('noise.bin', noise(1 << 20))], says: /no recipe|knows/i },
  ];
}

const HEAD = 'recipe: hostile\ntitle: Hostile\nrevision: 1\nnumbers: little\n';

const step = (body: string) => `${HEAD}
steps: { run: { decode: "(bytes) => { ${body} }" } }
shapes:
  all: [{ field: rows, as: 'row[1]' }]
  row: [{ field: body, as: data(1) }]
regions: [{ region: all, at: 0, length: end, through: [run], holds: all }]
presents: archive
entries: { each: row in all.rows }
`;

const CIRCLE = `${HEAD}
shapes:
  node:
    - { field: name, as: u8 }
    - { field: nextAt, as: u8 }
    - { field: left, as: node, at: nextAt, when: nextAt < 200 }
    - { field: right, as: node, at: nextAt, when: nextAt < 200 }
    - { field: body, as: data(0) }
regions: [{ region: all, at: 0, holds: node }]
presents: archive
entries: { each: node in all }
`;

const REGION_BOMB = `${HEAD}
shapes:
  all: [{ field: rows, as: 'row[to end]' }]
  row: [{ field: size, as: u32 }, { field: body, as: data(size) }]
regions: [{ region: all, at: 0, length: end, through: [deflate, deflate], holds: all }]
presents: archive
entries: { each: row in all.rows }
`;

const MANY_ROWS = `${HEAD}
shapes:
  all: [{ field: rows, as: 'row[to end]' }]
  row: [{ field: name, as: u16 }, { field: size, as: u16 }, { field: body, as: data(size) }]
regions: [{ region: all, at: 0, holds: all }]
presents: archive
entries: { each: row in all.rows }
`;

/** Zeros, packed twice: 400 MiB in about a kilobyte. */
function regionBomb(): Buffer {
  return deflateRawSync(deflateRawSync(Buffer.alloc(400 << 20), { level: 9 }), { level: 9 });
}

/** A ZIP of one entry whose head promises ten thousand million bytes; the packed bytes go on for 40 MB of zeros. */
function zipBomb(): Buffer {
  const packed = deflateRawSync(Buffer.alloc(64 << 20), { level: 9 });
  const many = Buffer.concat(Array.from({ length: 40 }, () => packed.subarray(0, packed.length - 2)));
  const name = Buffer.from('zeros.bin');
  const local = Buffer.alloc(30);
  local.write('PK\u0003\u0004', 0, 'latin1');
  local.writeUInt16LE(20, 4);
  local.writeUInt16LE(8, 8);
  local.writeUInt32LE(many.length, 18);
  local.writeUInt32LE(0xfffffff0, 22);
  local.writeUInt16LE(name.length, 26);
  const central = Buffer.alloc(46);
  central.write('PK\u0001\u0002', 0, 'latin1');
  central.writeUInt16LE(20, 4);
  central.writeUInt16LE(20, 6);
  central.writeUInt16LE(8, 10);
  central.writeUInt32LE(many.length, 20);
  central.writeUInt32LE(0xfffffff0, 24);
  central.writeUInt16LE(name.length, 28);
  const at = local.length + name.length + many.length;
  const end = Buffer.alloc(22);
  end.write('PK\u0005\u0006', 0, 'latin1');
  end.writeUInt16LE(1, 8);
  end.writeUInt16LE(1, 10);
  end.writeUInt32LE(central.length + name.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([local, name, many, central, name, end]);
}

function noise(length: number): Buffer {
  let state = 0x2545f491;
  return Buffer.from(
    Uint8Array.from({ length }, () => {
      state ^= state << 13;
      state ^= state >>> 17;
      state ^= state << 5;
      return state & 255;
    }),
  );
}
