/** What is there already, before a run starts: files that hold someone's work, or may. */
import { lstat } from 'node:fs/promises';
import { join } from 'node:path';
import type { z } from 'zod';
import { SafePaths } from '../../core/game';
import { MOST_DECISIONS, takeOutOrder, type Clash, type ClashesAnswer } from '../shapes';
import { trayEntries } from './start';
import { Taken } from './taken';
import { targetFolder } from './target';
import { nameFor, planFor, conversionOf, wholeEntries, withSuffix } from './conversion';

const AT_ONCE = 64;

/**
 * Counts the files that a run of this order would meet, and that no run wrote, or that were changed since.
 *
 * @throws FaultError as starting the run does
 */
export async function clashesOf(gameId: number, wanted: z.input<typeof takeOutOrder>): Promise<ClashesAnswer> {
  const order = takeOutOrder.parse(wanted);
  if (order.to === null) return { count: 0, first: [] };
  const to = await targetFolder(order.to);
  const taken = await Taken.read(gameId, to);
  const names = await namesOf(gameId, order);
  let count = 0;
  const first: Clash[] = [];
  for (let i = 0; i < names.length; i += AT_ONCE) {
    const some = names.slice(i, i + AT_ONCE);
    const standing = await Promise.all(some.map((name) => taken.standing(join(to, name))));
    const strange = some.filter((_, k) => standing[k] === 'strange');
    count += strange.length;
    const listed = strange.slice(0, MOST_DECISIONS - first.length);
    first.push(...(await Promise.all(listed.map((path) => clashOf(to, path)))));
  }
  return { count, first };
}

async function clashOf(to: string, path: string): Promise<Clash> {
  const facts = await lstat(join(to, path)).catch(() => undefined);
  return { path, size: facts?.size ?? 0, modified: (facts?.mtime ?? new Date(0)).toISOString() };
}

async function namesOf(gameId: number, order: ReturnType<typeof takeOutOrder.parse>): Promise<string[]> {
  const entries = await trayEntries(gameId);
  const conversion = await conversionOf(gameId, order, entries);
  const paths = new SafePaths(order.layout === 'flat' ? [] : entries.map(({ path }) => path));
  return wholeEntries(order.form, entries, conversion).flatMap((entry) => {
    const plan = order.form === 'open' ? planFor(entry, conversion) : undefined;
    const { path } = paths.clean(nameFor(entry, conversion, plan?.as));
    return plan === undefined ? [path] : plan.suffixes.map((suffix) => withSuffix(path, { suffix }));
  });
}
