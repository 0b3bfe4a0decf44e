/** Solving a repeating XOR of a file of the game from bytes whose plain form is known. */
import { maskKey, keyLength } from '../../../core/codecs';
import { openFile } from '../../../core/bytes/node';
import { FaultError } from '../../../core/faults';
import { solveXor, solveXorAnywhere, xorWith, type SolvedXor } from '../../../core/keysearch';
import { ArchiveModel } from '../../database';
import { startRun } from '../../runs';
import type { XorAnswer, XorOrder } from '../../shapes';
import { requireArchive, withMainFile } from '../archive-access';
import { keepKeys } from './key-service';

/** Bytes at the start of a file in which known ones are looked for. */
const LOOKED_THROUGH = 1 << 20;
const PREVIEW_BYTES = 96;

/**
 * Every key that explains the known bytes; with `keep`, that one of them goes into the keyring and is tried where a key of
 * its length is asked for.
 */
export async function solveXorOf(gameId: number, archiveId: number, order: XorOrder): Promise<XorAnswer> {
  const row = await requireArchive(gameId, archiveId);
  const known = order.hex === undefined ? new TextEncoder().encode(order.text ?? '') : Buffer.from(order.hex, 'hex');
  if (known.length < 2)
    throw new FaultError({ code: 'invalid-request', what: 'too few bytes are known', hint: 'Say at least four.' });
  const head = await withMainFile(row, async (path) => {
    const source = await openFile(path);
    try {
      return new Uint8Array(await source.read(0, Math.min(source.size, LOOKED_THROUGH)));
    } finally {
      await source.close();
    }
  });
  const solved = solutions(head, known, order.at);
  const chosen = order.keep === undefined ? undefined : solved[order.keep];
  const run = chosen === undefined ? null : await keep(gameId, row.path, chosen);
  return {
    known: known.length,
    solutions: solved.map(({ key, at, confirmed }) => ({
      mask: maskKey(key),
      period: key.length,
      at,
      confirmed,
      preview: Buffer.from(xorWith(head.subarray(0, PREVIEW_BYTES), key)).toString('hex'),
    })),
    kept: chosen !== undefined,
    run,
  };
}

function solutions(head: Uint8Array, known: Uint8Array, at: number | undefined): SolvedXor[] {
  if (at === undefined) return solveXorAnywhere(head, known);
  const solved = solveXor(head, known, at);
  if (solved === undefined)
    throw new FaultError({
      code: 'invalid-request',
      what: 'the known bytes do not lie in the file',
      offset: at,
      found: `${head.length.toLocaleString('en')} bytes that are looked at`,
    });
  return [solved];
}

async function keep(gameId: number, path: string, { key }: SolvedXor): Promise<XorAnswer['run']> {
  const locked = await ArchiveModel.findAll({ where: { gameId, state: 'locked' } });
  const asked = [...new Set(locked.flatMap((row) => Object.values(row.slots)))].filter(
    (kind) => keyLength(kind) === 0 || keyLength(kind) === key.length,
  );
  const kinds = asked.length === 0 ? [`bytes(${key.length})`] : asked;
  const name = `solved from ${path}`;
  const ids = await keepKeys(
    gameId,
    kinds.map((kind) => ({ kind, bytes: key, name })),
  );
  // Where nothing asks for it yet, it is kept for the recipe that will.
  return asked.length === 0
    ? null
    : startRun('unlock', { title: 'Trying the solved key', gameId, input: { keys: ids } });
}
