/** Reading a table of a million rows into columns, against python3's reading of a ZIP with as many entries. */
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openFile } from '../../src/core/bytes/node';
import { compileRecipe, openArchive } from '../../src/core/recipe';
import { say, seconds, type Row } from './table';

const ROWS = 1_000_000;

export const MILLION_RECIPE = `recipe: plain-table
title: Plain table
revision: 1
numbers: little
match: { at: 0, bytes: PTBL }
shapes:
  header:
    - { field: magic, as: ascii(4), must: PTBL }
    - { field: count, as: u32, is: count(entries) }
  row:
    - { field: name, as: text(u16, utf-8), is: entry.path }
    - { field: at,   as: u64, is: entry.at }
    - { field: kept, as: u32, is: entry.stored }
    - { field: size, as: u32, is: entry.size }
    - { field: crc,  as: u32, is: crc32(entry.data) }
regions:
  - { region: head, at: 0, holds: header }
  - { region: data, holds: entries }
  - { region: index, at: 8, holds: row[head.count] }
presents: archive
entries: { each: row in index, path: row.name, at: row.at, stored: row.kept, size: row.size }
`;

export async function measureIndex(work: string): Promise<Row[]> {
  const path = join(work, 'million.tbl');
  writeFileSync(path, millionRows());
  execFileSync('python3', ['-c', ZIP_OF_A_MILLION, join(work, 'million.zip'), String(ROWS)]);
  const ours = await seconds(() => openAndCount(path));
  // Memory is that of a process which does nothing else.
  const [, megabytes] = /peak (\d+)/.exec(
    execFileSync(process.execPath, [join(__dirname, 'bench-index-peak.cjs'), path], { encoding: 'utf8' }),
  )!;
  const theirs = await seconds(
    () =>
      execFileSync('python3', [
        '-c',
        'import sys,zipfile; assert len(zipfile.ZipFile(sys.argv[1]).infolist()) > 0',
        join(work, 'million.zip'),
      ]),
    1,
  );
  return [
    {
      what: 'index an archive',
      on: `${ROWS.toLocaleString('en')} rows, plain table`,
      ours: `${say(ours)}, ${megabytes} MB process`,
      tool: 'python3 zipfile, as many entries',
      theirs: say(theirs),
      ratio: theirs / ours,
      bar: '4 s, 400 MB',
    },
  ];
}

export async function openAndCount(path: string): Promise<void> {
  const source = await openFile(path);
  const archive = await openArchive(compileRecipe(MILLION_RECIPE), source);
  if (archive.entries.count !== ROWS || archive.complaints.length > 0) throw new Error('the table was not read');
  await source.close();
}

/** Written into one buffer: a million small ones would burden the measurements that follow. */
export function millionRows(): Buffer {
  const table = Buffer.alloc(8 + ROWS * 64);
  table.write('PTBL', 0, 'latin1');
  table.writeUInt32LE(ROWS, 4);
  let at = 8;
  for (let i = 0; i < ROWS; i++) {
    const length = table.write(`folder_${i % 1000}/entry_${i}.dat`, at + 2, 'utf8');
    table.writeUInt16LE(length, at);
    at += 2 + length;
    table.writeBigUInt64LE(8n, at);
    table.writeUInt32LE(4, at + 8);
    table.writeUInt32LE(4, at + 12);
    at += 20;
  }
  return table.subarray(0, at);
}

const ZIP_OF_A_MILLION = `
import sys, zipfile
z = zipfile.ZipFile(sys.argv[1], 'w')
for i in range(int(sys.argv[2])):
    z.writestr(f'folder_{i % 1000}/entry_{i}.dat', b'four')
z.close()
`;
