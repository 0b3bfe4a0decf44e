/** Formats made by chance: what a format is like, and its recipe as someone would write it. */
import type { Dice } from '../../soak/dice';

/** Everything that tells one made-up format from another. */
export interface MadeFormat {
  readonly big: boolean;
  /** Where the rows lie: behind the head, or at the end of the file with a pointer in the head or in a footer. */
  readonly index: 'front' | 'end' | 'footer';
  readonly name: 'fixed' | 'prefixed' | 'ended' | 'lines' | 'scrambled' | 'pooled';
  readonly sorted: boolean;
  /** Data lies in the order of the rows. */
  readonly inOrder: boolean;
  readonly align: number;
  /** Offsets count in units of `align`. */
  readonly sectors: boolean;
  readonly packed: 'never' | 'always' | 'by method';
  readonly cipher: 'none' | 'key' | 'place' | 'index' | 'path';
  readonly entrySum: 'none' | 'plain' | 'stored';
  readonly fileSum: boolean;
  readonly indexSum: boolean;
  /** The rows are locked. */
  readonly indexLocked: boolean;
  /** Offsets count from the start of the data. */
  readonly fromData: boolean;
  /** The rows are slots of a hash table. */
  readonly slots: boolean;
  /** How the stored bytes of an entry are split: not at all, in blocks of {@link BLOCK}, or in pieces from all over the file. */
  readonly split: 'no' | 'blocks' | 'pieces';
  /** Behind the data is fill up to a multiple of this; 0 for none. */
  readonly tail: number;
  /** An entry lists the paths of the others. */
  readonly list: boolean;
}

export function makeFormat(dice: Dice): MadeFormat {
  const align = dice.pick([1, 1, 4, 16, 64]);
  const index = dice.pick(['front', 'end', 'footer'] as const);
  const slots = dice.chance(0.15);
  const name = slots ? 'fixed' : dice.pick(['fixed', 'prefixed', 'ended', 'lines', 'scrambled', 'pooled'] as const);
  const inOrder = dice.chance(0.5);
  const split = slots ? 'no' : dice.pick(['no', 'no', 'no', 'blocks', 'pieces'] as const);
  return {
    big: dice.chance(0.4),
    index,
    name,
    sorted: !slots && dice.chance(0.5),
    inOrder,
    align,
    sectors: split !== 'pieces' && align > 1 && dice.chance(0.3),
    packed:
      split === 'pieces'
        ? 'never'
        : dice.pick(split === 'blocks' ? (['never', 'always'] as const) : (['never', 'always', 'by method'] as const)),
    cipher: dice.pick(['none', 'none', 'key', 'place', 'index', 'path'] as const),
    entrySum: dice.pick(['none', 'plain', 'stored'] as const),
    fileSum: dice.chance(0.4),
    indexSum: dice.chance(0.4),
    indexLocked: dice.chance(0.3),
    fromData: split !== 'pieces' && index !== 'front' && dice.chance(0.3),
    slots,
    split,
    tail: dice.chance(0.2) ? dice.pick([16, 256]) : 0,
    list: dice.chance(0.2),
  };
}

export const FIXED_NAME = 24;
/** Plain bytes of a block. */
export const BLOCK = 64;
/** The path of the entry that lists the others. */
export const LIST = 'list.txt';
/** The stored length of a slot that is free. */
export const FREE = 0xffffffff;
export const HEAD_SIZE = 32;
export const DATA_AT = 64;
export const INDEX_KEY = '5A C3 19';

/** The recipe of a format, with the plain words of the language. */
export function recipeOf(format: MadeFormat): string {
  const { index, name, align } = format;
  const front = index === 'front';
  const unit = format.sectors ? ` / ${align}` : '';
  const base = format.fromData ? ` - ${DATA_AT}` : '';
  const at = `(entry.at${base})${unit}`;
  const names = {
    fixed: `text(${FIXED_NAME}, utf-8)`,
    prefixed: 'text(u8, utf-8)',
    ended: 'text(zero, utf-8)',
    lines: 'text(until(0x0A), utf-8)',
    scrambled: 'text(rest, utf-8)',
    pooled: 'u32',
  }[name];
  const nameIs = name === 'pooled' ? 'place(names, entry.path)' : 'entry.path';
  const path = name === 'pooled' ? 'text-at(names, row.name)' : 'row.name';
  const rowFields = [
    ...(name === 'scrambled'
      ? ['{ field: salt, as: u8, new: 77 }', '{ field: length, as: u8, is: length(name) }']
      : []),
    `{ field: name, as: "${names}", is: "${nameIs}"${name === 'scrambled' ? ', size: length, through: ["counter-xor(start: salt, step: 3)"]' : ''} }`,
    ...(format.split === 'pieces'
      ? [
          '{ field: pieces, as: u16, is: entry.block-count }',
          '{ field: places, as: "u32[pieces]", is: block.place }',
          '{ field: lengths, as: "u32[pieces]", is: block.stored }',
        ]
      : [`{ field: at, as: u32, is: "${at}" }`]),
    '{ field: stored, as: u32, is: entry.stored }',
    '{ field: size, as: u32, is: entry.size }',
    ...(format.split === 'blocks' ? [`{ field: sizes, as: "u32[ceil(size, ${BLOCK})]", is: block.stored }`] : []),
    ...(format.packed === 'by method' ? ['{ field: method, as: u8, is: entry.method }'] : []),
    ...(format.entrySum === 'none'
      ? []
      : [`{ field: sum, as: u32, is: "crc32(entry.${format.entrySum === 'plain' ? 'data' : 'packed'})" }`]),
  ];
  const steps = {
    none: [],
    key: [`xor(hex('11 22 33 44 05'))`],
    place: ['lcg-xor(entry.at, multiply: 1664525, add: 1013904223, shift: 16)'],
    index: ['lcg-xor(entry.index + 1, multiply: 1664525, add: 1013904223, shift: 16)'],
    path: ['lcg-xor(crc32(entry.path), multiply: 1664525, add: 1013904223, shift: 16)'],
  }[format.cipher].map((step) => step.replaceAll("'", '\\"'));
  const chain = (compressed: boolean) =>
    `[${[...steps.map((step) => `"${step}"`), ...(compressed ? ['zlib'] : [])].join(', ')}]`;
  const packing =
    format.packed === 'by method'
      ? `  method: row.method\n  methods: { 0: ${chain(false)}, 1: ${chain(true)} }`
      : `  through: ${chain(format.packed === 'always' && format.split === 'no')}`;
  const lock = format.indexLocked ? `, through: ["xor(hex(\\"${INDEX_KEY}\\"))"]` : '';
  const sort = format.sorted ? `, sort: "encode(${name === 'pooled' ? 'text-at(names, name)' : 'name'}, utf-8)"` : '';
  const slots = format.slots ? `, slots: { by: crc32(name), free: stored == ${FREE} }` : '';
  const from = index === 'footer' ? 'foot' : 'head';
  const rowsAt = front ? String(DATA_AT) : `${from}.rowsAt`;
  const pool =
    name === 'pooled'
      ? [`{ region: names, at: ${from}.namesAt, length: ${from}.namesSize, holds: "pool(zero, utf-8)" }`]
      : [];
  const dataRule = `${format.inOrder ? ', order: rows' : ''}${align > 1 ? `, align: ${align}` : ''}${format.tail > 0 ? `, tail: ${format.tail}` : ''}`;
  const data = front
    ? `{ region: data, holds: entries${dataRule} }`
    : `{ region: data, at: ${DATA_AT}, holds: entries${dataRule} }`;
  const pointers = ['{ field: rowsAt, as: u32, is: start(rows) }', '{ field: rowsSize, as: u32, is: length(rows) }'];
  const rest = [
    ...(name === 'pooled'
      ? ['{ field: namesAt, as: u32, is: start(names) }', '{ field: namesSize, as: u32, is: length(names) }']
      : ['{ field: spare, as: u64, must: 0 }']),
  ];
  const headFields = [
    '{ field: magic, as: ascii(4), must: MADE }',
    `{ field: count, as: u32, is: count(${format.slots ? 'rows' : 'entries'}) }`,
    `{ field: fileSum, as: u32${format.fileSum ? ', is: crc32(blanked(span(0, end)))' : ', must: 0'} }`,
    `{ field: rowsSum, as: u32${format.indexSum ? ', is: crc32(stored(rows))' : ', must: 0'} }`,
    ...(index === 'footer'
      ? ['{ field: none, as: bytes(16), must: 00 00 00 00 00 00 00 00 00 00 00 00 00 00 00 00 }']
      : [...pointers, ...rest]),
    `{ field: fill, as: bytes(${DATA_AT - HEAD_SIZE}), is: zeros(${DATA_AT - HEAD_SIZE}) }`,
  ];
  const shapes = [
    `  header:\n${headFields.map((one) => `    - ${one}`).join('\n')}`,
    `  row:\n${rowFields.map((one) => `    - ${one}`).join('\n')}`,
    ...(index === 'footer'
      ? [
          `  footer:\n${[...pointers, ...rest, '{ field: magic, as: ascii(4), must: EDAM }'].map((one) => `    - ${one}`).join('\n')}`,
        ]
      : []),
  ];
  const rows = `{ region: rows, at: ${rowsAt}, length: ${from}.rowsSize${lock}, holds: "row[head.count]"${sort}${slots} }`;
  const foot = index === 'footer' ? ['{ region: foot, at: end - 20, holds: footer }'] : [];
  const regions = [
    '{ region: head, at: 0, holds: header }',
    ...(front ? [rows, ...pool, data] : [data, rows, ...pool, ...foot]),
  ];
  const place = `row.at${format.sectors ? ` * ${align}` : ''}${format.fromData ? ` + ${DATA_AT}` : ''}`;
  const found = format.split === 'pieces' ? 'if(row.pieces == 0, 0, row.places[0])' : place;
  const blocks = {
    no: '',
    blocks: `  blocks: { size: ${BLOCK}, stored: "row.sizes[block.index]", through: ${format.packed === 'always' ? '[zlib]' : '[]'} }\n`,
    pieces: `  blocks: { count: row.pieces, size: "row.lengths[block.index]", stored: "row.lengths[block.index]", at: "row.places[block.index]" }\n`,
  }[format.split];
  const made = format.list ? `  made: [{ path: ${LIST}, each: 'entry.path + "\\n"' }]\n` : '';
  return `recipe: made
title: Made by chance
revision: 1
numbers: ${format.big ? 'big' : 'little'}
match: { at: 0, bytes: MADE }
shapes:
${shapes.join('\n')}
regions:
${regions.map((one) => `  - ${one}`).join('\n')}
presents: archive
entries:
  each: row in rows
  path: "${path}"
  at: "${found}"
  stored: row.stored
  size: row.size
${format.slots ? `  only: row.stored != ${FREE}\n` : ''}${blocks}${made}${packing}
`;
}
