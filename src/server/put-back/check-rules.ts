/** The rules of a profile, asked of what is new or changed in a build; and whether the game will load it last. */
import { posix } from 'node:path';
import { throwIfStopped } from '../../core/faults';
import { brokenRules, inLoadOrder, type RuledEntry } from '../../core/game';
import { ArchiveModel, type GameModel } from '../database';
import { findWinner, winnerBytes } from '../content';
import { asItself, bytesSubject, formOf } from '../forms';
import { profileOf } from '../games';
import type { BuildFile, BuiltChange, JudgeFinding, JudgeReport } from '../shapes';
import { readBlob } from '../storage';

/** @throws CancelledError when the run is stopped */
export async function checkRules(
  game: GameModel,
  files: readonly BuildFile[],
  changes: readonly BuiltChange[],
  signal: AbortSignal,
): Promise<JudgeReport> {
  const started = performance.now();
  const { testRules } = profileOf(game);
  const entries: RuledEntry[] = [];
  for (const change of changes) {
    throwIfStopped(signal);
    if (change.action !== 'remove') entries.push(await ruledEntry(game.id, change, changes));
  }
  const broken = brokenRules(testRules, entries).map(({ path, rule, title, found }): JudgeFinding => ({
    severity: 'stop',
    code: rule.toUpperCase(),
    file: path,
    offset: 0,
    rule: title,
    found,
  }));
  const order = await loadsLast(game, files);
  const findings = [...broken, ...order];
  const milliseconds = Math.round(performance.now() - started);
  return {
    by: 'rules',
    rules: testRules.length,
    started: findings.every(({ severity }) => severity !== 'stop'),
    steps: [
      { what: 'Looked at what is new or changed', count: entries.length, milliseconds },
      ...(testRules.length === 0 ? [] : [{ what: 'Rules checked for each', count: testRules.length, milliseconds: 0 }]),
    ],
    findings,
    files: files.map(({ name, size }) => ({ file: name, folder: 1, entries: 0, bytes: size })),
    scene: null,
    shown: [],
  };
}

async function ruledEntry(
  gameId: number,
  { path, blob }: BuiltChange,
  changes: readonly BuiltChange[],
): Promise<RuledEntry> {
  const bytes = await readBlob(blob);
  const entry = await findWinner(gameId, path).catch(() => undefined);
  const companion = async (other: string) => {
    const own = changes.find((one) => one.path === other);
    return own === undefined ? winnerBytes(gameId, other) : readBlob(own.blob);
  };
  const subject = asItself(await bytesSubject({ gameId, path, entry, companion }, bytes));
  return { path, size: bytes.length, ...(await formOf(subject)?.measure?.(subject)) };
}

/** A new archive has to come behind those it covers, or nothing of it is seen. */
async function loadsLast(game: GameModel, files: readonly BuildFile[]): Promise<JudgeFinding[]> {
  const rows = await ArchiveModel.findAll({ where: { gameId: game.id, parentId: null }, attributes: ['path'] });
  const known = new Set(rows.map(({ path }) => path));
  const { loadOrder, byHand } = profileOf(game);
  const findings: JudgeFinding[] = [];
  for (const { name } of files) {
    const covered = name.replace(/(^|\/)zz-my-/, '$1');
    if (known.has(name) || covered === name || !known.has(covered)) continue;
    const order = inLoadOrder([...known, name], loadOrder, { byHand });
    const ending = posix.extname(name);
    const after = order.slice(order.indexOf(name) + 1).filter((path) => posix.extname(path) === ending);
    if (after.length > 0)
      findings.push({
        severity: loadOrder.by === 'list' ? 'note' : 'stop',
        code: 'LOAD-ORDER',
        file: name,
        offset: 0,
        rule: 'What covers others loads behind them.',
        found: `${after.join(', ')} would load behind it`,
      });
  }
  return findings;
}
