/** Taking out: a run that can be stopped, resumed, and repeated on the next build of the game. */
import { newToken } from '../../core/bytes/node';
import { faultOf, sayFault, throwIfStopped, type Fault } from '../../core/faults';
import { SafePaths } from '../../core/game';
import { sayNote } from '../../core/notes';
import { withArchive } from '../games';
import type { RunContext } from '../runs/run-context';
import type { RunResult } from '../shapes';
import { threadCount } from '../threads';
import { inOne, type Destination } from './destination';
import { intoFolder } from './into-folder';
import { intoZip } from './into-zip';
import { joinSounds } from './join-sounds';
import { checkStillThere, plainBytes } from './plain';
import type { OutPlan } from '../forms';
import type { OutgoingEntry } from '../shapes';
import { conversionOf, nameFor, planFor, wholeEntries, withSuffix } from './conversion';

/** Faults that stop the whole run: no entry after it would fare better. */
const FATAL = ['disk-full', 'read-only', 'stopped'];
const MAX_FAILURES_LISTED = 200;
/** What all sounds of a run go into when they are joined. */
const JOINED = 'sounds.wav';

export async function takeOutRun(context: RunContext<'take-out'>): Promise<RunResult<'take-out'>> {
  const { to: folder, existing, decisions, token = newToken() } = context.input;
  const to =
    folder === null
      ? await intoZip(context.runId)
      : await intoFolder(context.gameId, folder, { existing, decisions, token });
  try {
    return await takeAll(context, to);
  } catch (error) {
    await to.abandon();
    throw error;
  }
}

async function takeAll(
  { gameId, input: order, signal, progress, log }: RunContext<'take-out'>,
  to: Destination,
): Promise<RunResult<'take-out'>> {
  const conversion = await conversionOf(gameId, order, order.entries);
  const paths = new SafePaths(order.layout === 'flat' ? [] : order.entries.map(({ path }) => path));
  const failures: { path: string; fault: Fault }[] = [];
  const sums = { taken: 0, bytes: 0, skipped: 0, turned: 0, kept: 0 };
  let done = 0;

  const cleaned = (entry: OutgoingEntry, name: string) => {
    const safe = paths.clean(name);
    if (safe.renamed !== undefined) log(`${entry.path} is written as ${safe.path}, because ${safe.renamed}.`);
    return safe.path;
  };
  /** A file that a run before has written, of the same content, is skipped when only changes are wanted. */
  const isKnown = async (path: string, mark: string) => order.onlyChanged && (await to.isKnown(path, mark));

  /** @returns whether it was written */
  const written = (bytes: number | 'kept', path: string) => {
    if (bytes === 'kept') {
      sums.kept++;
      log(`${path} is there already and holds other bytes; it stays as it is.`);
      return false;
    }
    sums.bytes += bytes;
    return true;
  };

  const takeConverted = async (entry: OutgoingEntry, plan: OutPlan, mark: string) => {
    const name = cleaned(entry, nameFor(entry, conversion, plan.as));
    const known = await Promise.all(plan.suffixes.map((suffix) => isKnown(withSuffix(name, { suffix }), mark)));
    if (known.every((one) => one)) {
      sums.skipped++;
      return;
    }
    await withArchive(entry.archive, (archive) => checkStillThere(archive, entry));
    let any = false;
    for await (const { chunks, notes, ...named } of plan.files(entry, signal)) {
      const path = withSuffix(name, named);
      if (written(await to.write(path, chunks, mark), path)) any = true;
      for (const note of notes) log(`${entry.path}: ${sayNote(note)}.`);
    }
    if (!any) return;
    sums.turned++;
    sums.taken++;
  };

  const takePlain = async (entry: OutgoingEntry, mark: string) => {
    const path = cleaned(entry, nameFor(entry, conversion, undefined));
    if ((await isKnown(path, mark)) || (order.form === 'open' && (await to.isThere(path, entry, mark)))) {
      sums.skipped++;
      return;
    }
    const bytes = await withArchive(entry.archive, async (archive) => {
      await checkStillThere(archive, entry);
      return to.write(path, plainBytes(archive, entry.n, order.form, signal), mark);
    });
    if (written(bytes, path)) sums.taken++;
  };

  const failed = (error: unknown, path: string) => {
    const fault = faultOf(error, path);
    if (FATAL.includes(fault.code) || signal.aborted) throw error;
    if (failures.length < MAX_FAILURES_LISTED) failures.push({ path, fault });
    log(sayFault(fault));
  };
  const takeInto = async (entry: OutgoingEntry) => {
    const plan = order.form === 'open' ? planFor(entry, conversion) : undefined;
    const how = [order.form, plan?.as, order.mip, order.split, order.trim, ...(plan?.choices ?? [])].join(' ');
    try {
      if (plan === undefined) await takePlain(entry, `${how} ${entry.mark}`);
      else await takeConverted(entry, plan, `${how} ${entry.mark}`);
    } catch (error) {
      failed(error, entry.path);
    }
    progress(++done, order.entries.length, 'entries');
  };

  // What is turned into another format takes cores: as many at a time as there are. Bytes flow one after the other.
  const atOnce = conversion.plans.size === 0 ? 1 : threadCount();
  const whole = wholeEntries(order.form, order.entries, conversion);
  const within = order.entries.length - whole.length;
  if (within > 0) log(`${within.toLocaleString('en')} entries are parts of pictures or films, and go out in them.`);
  done += within;
  const alone = (entry: OutgoingEntry) => !(order.join && order.form === 'open' && entry.kind === 'sound');
  const waiting = whole.filter(alone).values();
  const ends = new Set<unknown>();
  const lane = async () => {
    for (const entry of waiting) {
      // What ends one ends all, and the run is not over while another still writes.
      if (ends.size > 0) return;
      throwIfStopped(signal);
      await takeInto(entry);
    }
  };
  await Promise.all(Array.from({ length: atOnce }, () => lane().catch((error: unknown) => ends.add(error))));
  for (const error of ends) throw error;

  const joined = order.entries.filter((entry) => !alone(entry));
  if (joined.length > 0) {
    try {
      const { wav, cue, left } = await joinSounds(joined, JOINED, { trim: order.trim, signal });
      const sheet = new TextEncoder().encode(cue);
      for (const [path, bytes] of [[JOINED, wav] as const, [JOINED.replace('.wav', '.cue'), sheet] as const])
        if (written(await to.write(path, inOne(bytes)), path)) sums.taken++;
      for (const path of left) failed(new Error('there is no more room in the joined file'), path);
    } catch (error) {
      failed(error, JOINED);
    }
  }
  await to.close(failures.map(({ fault }) => sayFault(fault)));
  progress(order.entries.length, order.entries.length, 'entries');
  return { ...sums, within, failures, folder: to.folder };
}
