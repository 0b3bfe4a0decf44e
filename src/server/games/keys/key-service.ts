import { createHash } from 'node:crypto';
import { keyLength, keysInText, maskKey, type NamedKey } from '../../../core/codecs';
import { FaultError } from '../../../core/faults';
import { ArchiveModel, GameModel, KeyModel, RunModel } from '../../database';
import { startRun } from '../../runs';
import type { RunAnswer } from '../../shapes';
import { seal } from '../../storage';
import { forgetEntries, settleWinners } from '../entry-index';

/** A key file holds a key, or a list of them; what is larger is looked through for keys instead. */
const MAX_KEY_FILE_BYTES = 64 << 10;
/** A list of more keys than this is not a keyring. */
const MAX_KEYS = 1_000;

/**
 * Takes pasted keys in and starts a run that tries them on every locked archive. A key that opens nothing is not kept.
 *
 * @throws FaultError `key-wrong` when no reading of the text has a length that is asked for
 */
export async function addKey(gameId: number, text: string): Promise<RunAnswer> {
  return tryKeys(gameId, keysInText(text));
}

/** The same for a key file: its bytes as they are, or the keys it lists as text. */
export async function addKeyFile(gameId: number, chunks: AsyncIterable<Uint8Array>): Promise<RunAnswer> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of chunks) {
    parts.push(chunk);
    size += chunk.length;
    if (size > MAX_KEY_FILE_BYTES)
      throw new FaultError({
        code: 'limit-reached',
        what: 'this is too large for a key file',
        limit: `bytes of a key file, ${MAX_KEY_FILE_BYTES.toLocaleString('en')}`,
        hint: 'Look for keys in it instead.',
      });
  }
  const bytes = new Uint8Array(Buffer.concat(parts));
  return tryKeys(gameId, [{ name: undefined, bytes }, ...keysInText(Buffer.from(bytes).toString('utf8'))]);
}

async function tryKeys(gameId: number, candidates: readonly NamedKey[]): Promise<RunAnswer> {
  const locked = await ArchiveModel.findAll({ where: { gameId, state: 'locked' } });
  const refuse = async (fault: FaultError): Promise<never> => {
    // What would ask for the key may not have been looked at yet.
    if ((await RunModel.count({ where: { gameId, kind: 'scan', state: ['waiting', 'working'] } })) === 0) throw fault;
    throw new FaultError({
      code: 'conflict',
      what: 'the folder is still being scanned, and nothing that was found so far asks for this key',
      hint: 'Try it again when the scan is done.',
    });
  };
  if (locked.length === 0)
    await refuse(
      new FaultError({
        code: 'conflict',
        what: 'no archive of this game is locked',
        hint: 'Scan the folder first.',
      }),
    );
  const kinds = [...new Set(locked.flatMap((archive) => Object.values(archive.slots)))];
  const fitting = kinds.flatMap((kind) =>
    candidates
      .filter(({ bytes }) => keyLength(kind) === 0 || bytes.length === keyLength(kind))
      .map((key) => ({ kind, ...key })),
  );
  if (fitting.length === 0) await refuse(wrongLength(kinds, candidates[0]?.bytes));
  const ids = await keepKeys(gameId, fitting.slice(0, MAX_KEYS));
  const title = ids.length === 1 ? 'Trying a key' : `Trying ${ids.length} keys`;
  return startRun('unlock', { title, gameId, input: { keys: ids } });
}

function wrongLength(kinds: readonly string[], first: Uint8Array | undefined): FaultError {
  const lengths = kinds.map((kind) => ({ kind, bytes: keyLength(kind) }));
  const longest = Math.max(...lengths.map(({ bytes }) => bytes));
  return new FaultError({
    code: 'key-wrong',
    what: `no locked archive asks for a key of this length: ${lengths.map(({ kind, bytes }) => `${kind} has ${bytes} bytes, that is ${bytes * 2} hex digits`).join('; ')}`,
    found: first === undefined ? 'nothing' : `${first.length} bytes`,
    hint: first !== undefined && first.length < longest ? 'Was it copied whole?' : 'Is there more than the key in it?',
  });
}

/** Seals keys and keeps them for the build the game has now. @returns their ids, of those known before too */
export async function keepKeys(
  gameId: number,
  keys: readonly (NamedKey & { readonly kind: string })[],
): Promise<number[]> {
  const game = await GameModel.findByPk(gameId);
  const ids = new Set<number>();
  for (const { kind, bytes, name } of keys) {
    const fingerprint = createHash('sha256').update(kind).update(bytes).digest('hex');
    const [key] = await KeyModel.findOrCreate({
      where: { gameId, fingerprint },
      defaults: {
        gameId,
        kind,
        mask: maskKey(bytes),
        sealed: seal(bytes),
        fingerprint,
        name: name ?? null,
        build: game?.build ?? null,
      },
    });
    ids.add(key.id);
  }
  return [...ids];
}

/** Forgets a key; what only it opened is locked again. */
export async function removeKey(gameId: number, id: number): Promise<void> {
  await KeyModel.destroy({ where: { gameId, id } });
  const archives = await ArchiveModel.findAll({ where: { gameId } });
  const opened = archives.filter((archive) => Object.values(archive.keys).includes(id));
  for (const archive of opened) {
    await ArchiveModel.destroy({ where: { parentId: archive.id } });
    await forgetEntries(archive.id);
    await archive.update({ state: 'locked', keys: {}, entryCount: 0, namedCount: 0, proof: null });
  }
  if (opened.length > 0) await settleWinners(gameId);
}
