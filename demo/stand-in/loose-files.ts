/** The loose files of the game: the journal with its scrambled sketches, and the level without a table. */
import { inflateSync, constants } from 'node:zlib';
import { checkJson, checkPicture } from './content-rules';
import type { Loading } from './further-archives';
import { findFile, mounted } from './mount';
import { LoadStop } from './report';
import { Walk } from './walk';

const SEALED_BYTES = 64;

export function loadJournal({ folders, loaded }: Loading): number {
  const front = findFile(folders, 'journal/journal.json');
  if (front === undefined) return 0;
  const { seal, pages } = checkJson(front.file, 'the journal', front.bytes) as { seal?: unknown; pages?: unknown };
  const stop = (file: string, rule: string, found: string): never => {
    throw new LoadStop({ code: 'JOURNAL', file, offset: 0, rule, found });
  };
  if (typeof seal !== 'string' || !/^[0-9a-f]{32}$/.test(seal))
    return stop(front.file, 'The journal has a seal of 32 hex digits.', String(seal));
  const key = Buffer.from(seal, 'hex');
  const found = (name: string) =>
    findFile(folders, `journal/${name}`) ?? stop(front.file, 'What the journal names is there.', name);
  let count = 0;
  for (const name of Array.isArray(pages) ? (pages as string[]) : stop(front.file, 'It lists its pages.', 'none')) {
    const page = found(name);
    const { sketches } = checkJson(page.file, name, page.bytes) as { sketches: string[] };
    loaded(page, 1);
    count++;
    for (const sketch of sketches) {
      const file = found(sketch);
      const plain = Buffer.from(file.bytes);
      for (let i = 0; i < Math.min(SEALED_BYTES, plain.length); i++) plain[i]! ^= key[i % key.length]!;
      checkPicture(file.file, sketch, plain);
      count++;
    }
  }
  return count;
}

export function loadLevels({ folders, loaded }: Loading): number {
  let count = 0;
  for (const file of mounted(folders, '.lvl')) {
    const walk = new Walk(file.file, 'LEVEL', file.bytes);
    walk.magic('VL');
    walk.is('VERSION', 1, walk.u16(), 2, 'The level is of version 1.');
    const side = walk.u16();
    const pictures = walk.u16();
    walk.zeros(8);
    walk.take(side * side * 2);
    for (let i = 0; i < pictures; i++) checkPicture(file.file, `picture ${i + 1}`, takePicture(walk));
    takeRoute(walk);
    const size = walk.bytes.length - walk.at;
    const wind = walk.take(size);
    if (wind.toString('latin1', 0, 4) !== 'RIFF' || wind.readUInt32LE(4) + 8 !== size)
      walk.stop('WIND', walk.at - size, 'A WAVE sound ends the level.', `${size} bytes`);
    loaded(file, pictures + 2);
    count += pictures + 2;
  }
  return count;
}

/** A PNG ends with its IEND chunk. */
function takePicture(walk: Walk): Buffer {
  const start = walk.at;
  if (walk.take(8).toString('latin1') !== '\x89PNG\r\n\x1a\n')
    walk.stop('PICTURE', start, 'A picture starts here.', 'none');
  for (;;) {
    const length = walk.take(4).readUInt32BE();
    const tag = walk.take(4).toString('latin1');
    walk.take(length + 4);
    if (tag === 'IEND') return walk.bytes.subarray(start, walk.at);
  }
}

function takeRoute(walk: Walk): void {
  const start = walk.at;
  try {
    // The engine says how many bytes it took; what follows is the next part.
    const { engine } = inflateSync(walk.bytes.subarray(start), {
      info: true,
      finishFlush: constants.Z_SYNC_FLUSH,
    }) as unknown as { engine: { bytesWritten: number } };
    walk.take(engine.bytesWritten);
  } catch (error) {
    walk.stop('ROUTE', start, 'The route is a zlib stream.', (error as Error).message);
  }
}
