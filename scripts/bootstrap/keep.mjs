/** What was started is started again when it ends by itself, unless it keeps ending. */
import { randomBytes } from 'node:crypto';
import { existsSync, linkSync, mkdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Stop, step } from './say.mjs';

/** A process may end so often in so long; one that ends more often has something that a start does not mend. */
const MOST_ENDS = 5;
const WITHIN_MS = 10 * 60_000;

/**
 * @param begin starts it; `ended` of what it returns resolves when it has ended
 * @param now told when it has been started again
 * @returns once it has ended too often, or `stopped` says that it is meant to
 */
export async function keepRunning(
  name,
  first,
  begin,
  { now = () => {}, stopped = () => false, within = WITHIN_MS } = {},
) {
  const ends = [];
  for (let running = first; ;) {
    await running.ended;
    if (stopped()) return running;
    ends.push(Date.now());
    while (ends[0] < Date.now() - within) ends.shift();
    if (ends.length > MOST_ENDS) return running;
    step(`The ${name} ended; starting it again`);
    running = await begin();
    now(running);
  }
}

/** Looks now and then whether something is there, and mends it when it is not. @returns how to stop looking */
export function lookAfter(name, isThere, mend, { every = 3_000 } = {}) {
  let busy = false;
  const ends = [];
  const timer = setInterval(() => {
    if (busy || isThere()) return;
    ends.push(Date.now());
    while (ends[0] < Date.now() - WITHIN_MS) ends.shift();
    if (ends.length > MOST_ENDS) {
      clearInterval(timer);
      process.stderr.write(`The ${name} keeps ending by itself; it is not started again.\n`);
      return;
    }
    busy = true;
    step(`The ${name} ended; starting it again`);
    Promise.resolve()
      .then(mend)
      .catch((error) => process.stderr.write(`${error.message}\n`))
      .finally(() => (busy = false));
  }, every);
  return () => clearInterval(timer);
}

/** So often a start tries, while others clean up. */
const MOST_TRIES = 100;

/**
 * One start at a time works in a home.
 *
 * @returns `address` of the start that is at work already; else how to say our own address, and to let go
 */
export function takeTurn(home) {
  const path = join(home, 'running.json');
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    if (claim(path))
      return {
        address: undefined,
        say: (address) => writeFileSync(path, JSON.stringify({ pid: process.pid, address })),
        letGo: () => rmSync(path, { force: true }),
      };
    const other = readOther(path);
    if (other !== undefined && isOurs(other.pid)) {
      if (other.address !== undefined) return { address: other.address };
      throw new Stop(`Zero Latch is being started here already, by process ${other.pid}.`);
    }
    removeStale(path, other);
  }
  throw new Stop('Several starts of Zero Latch are in each other’s way here. Try again.');
}

/** Makes the file with our number in it, in one step: no one ever reads it empty. @returns false when it is there */
function claim(path) {
  const temporary = asideOf(path);
  writeFileSync(temporary, JSON.stringify({ pid: process.pid }), { flag: 'wx', mode: 0o600 });
  try {
    linkSync(temporary, path);
    return true;
  } catch (error) {
    if (error.code === 'EEXIST') return false;
    throw error;
  } finally {
    rmSync(temporary);
  }
}

/** A start that was killed while it cleaned up is not waited for any longer than this. */
const MOST_CLEANING_MS = 10_000;

/**
 * Removes what a killed start left behind, unless another start has put its own there since it was read. One at a time: nobody
 * takes away, even for a moment, what a living start has put there.
 */
function removeStale(path, read) {
  const lock = `${path}.cleaning`;
  try {
    mkdirSync(lock);
  } catch (error) {
    if (error.code !== 'EEXIST') throw error;
    const since = statSync(lock, { throwIfNoEntry: false })?.mtimeMs ?? Date.now();
    if (Date.now() - since > MOST_CLEANING_MS) rmSync(lock, { recursive: true, force: true });
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 20);
    return;
  }
  try {
    if (existsSync(path) && readOther(path)?.pid === read?.pid) rmSync(path, { force: true });
  } finally {
    rmSync(lock, { recursive: true, force: true });
  }
}

const asideOf = (path) => `${path}.${randomBytes(6).toString('hex')}`;

function readOther(path) {
  try {
    return JSON.parse(readFileSync(path, 'utf8'));
  } catch {
    return undefined;
  }
}

/** True for a process that is alive and is a start of this kind: numbers of processes are given again. */
function isOurs(pid) {
  try {
    process.kill(pid, 0);
  } catch (error) {
    if (error.code === 'ESRCH') return false;
  }
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('bootstrap');
  } catch {
    // Not every system shows what runs.
    return true;
  }
}
