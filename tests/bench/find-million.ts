/** Find over a million entries, measured in the browser: from a key pressed to the list drawn. */
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { migrate } from '../../src/server/database';
import { saveRecipe } from '../../src/server/recipes';
import { MILLION_RECIPE, millionRows } from './index-table';
import { stopBehind, took } from './open-game';
import type { Row } from './table';

const CHECKOUT = join(__dirname, '..', '..');
/** Typed letter by letter; each finds another number of entries than the one before. */
const TYPED = [
  ...['entry_77', '9.dat', '*5?.dat', 'folder_12 99', '-7 entry_1', 'folder_3*9.dat', '4711', '"r_99/" 8', '*1.dat -5'],
  ...['folder_1?/*7*', '2 3 4 5', 'size:>4k 12', '33 -44', '_8*8.dat', '"9/entry_9"', '606 -folder_6', 'dat -0 -1 -2'],
];
const FOLDERS = 24;
const SCROLLED_FRAMES = 240;

interface Application {
  readonly address: string;
  readonly web: { readonly child: { readonly pid: number } };
  stop(): Promise<unknown>;
}

/** Nothing without a database, which `npm run bench` starts. */
export async function measureFind(work: string): Promise<Row[]> {
  if (process.env.DATABASE_URL === undefined) return [];
  await migrate();
  const { buildPages, startApplication } = (await import(
    join(CHECKOUT, 'scripts/bootstrap/application.mjs')
  )) as unknown as {
    buildPages(checkout: string): Promise<void>;
    startApplication(checkout: string, how: object): Promise<Application>;
  };
  await buildPages(CHECKOUT);
  const application = await startApplication(CHECKOUT, {
    url: process.env.DATABASE_URL,
    home: process.env.ZERO_LATCH_HOME,
    roots: process.env.ZERO_LATCH_ROOTS,
    wantedPort: 4395,
  });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    // What runs in the page is marked with its names by the compiler of these files.
    await page.addInitScript('globalThis.__name = (work) => work');
    const game = await millionGame(work, application.address);
    await page.goto(`${application.address}/games/${game}/find?view=list`);
    await page.getByText('1,000,000 entries,').waitFor({ timeout: 120_000 });
    const typed = await timesOf(page, TYPED);
    const folders = await folderTimes(page);
    const frames = await scrollFrames(page);
    const previews = await previewTimes(page);
    const memory = await page.evaluate(
      () => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize,
    );
    const server =
      Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${application.web.child.pid}/status`, 'utf8'))![1]) / 1024;
    const bar = (what: string, on: string, times: number[], most: number, more = ''): Row => ({
      what,
      on,
      ours: `p50 ${at(times, 0.5).toFixed(0)} ms, p95 ${at(times, 0.95).toFixed(0)} ms${more}`,
      tool: 'the bar',
      theirs: `${most} ms`,
      ratio: most / at(times, 0.95),
      bar: `p95 ${most} ms`,
    });
    const held = `page ${(memory / 2 ** 20).toFixed(0)} MB, server ${server.toFixed(0)} MB`;
    return [
      bar('search as you type', '1,000,000 entries', typed, 150, `; ${typed.length} letters, ${held}`),
      bar('open a folder', '1,000,000 entries', folders, 150),
      bar('scroll the list', '1,000,000 entries', frames, 50),
      bar('look at an entry', '1,000,000 entries, until its facts are there', previews, 150),
    ];
  } finally {
    await browser.close();
    await application.stop();
  }
}

async function millionGame(work: string, address: string): Promise<number> {
  const folder = join(work, 'million-find');
  mkdirSync(folder);
  writeFileSync(join(folder, 'million.tbl'), millionRows());
  await saveRecipe(MILLION_RECIPE);
  const answer = await fetch(`${address}/api/games`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: address },
    body: JSON.stringify({ folder }),
  });
  const { game, run } = (await answer.json()) as { game: { id: number }; run: { id: number } };
  await took(run.id);
  await stopBehind(game.id);
  return game.id;
}

const at = (times: number[], part: number) =>
  [...times].sort((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * part))]!;

/** Milliseconds from each letter to the list drawn again; letters that find the same as before are left out. */
async function timesOf(page: Page, lines: readonly string[]): Promise<number[]> {
  const times: number[] = [];
  for (const line of lines)
    for (let length = 0; length <= line.length; length++) {
      const took = await page.evaluate(drawn, { type: line.slice(0, length) });
      if (took !== null) times.push(took);
    }
  await page.evaluate(drawn, { type: '' });
  return times;
}

/**
 * Runs in the page: types a line or clicks a folder, and waits until other entries are drawn. Null when half a second later
 * they are still the same.
 */
function drawn({ type, folder }: { type?: string; folder?: number }): Promise<number | null> {
  // How many, and which is the first.
  const shown = () =>
    [...document.querySelectorAll('[role=status]'), document.querySelector('[role=option] [title]')]
      .map((one) => `${one?.textContent} ${one?.getAttribute('title')}`)
      .join();
  const before = shown();
  const start = performance.now();
  if (type !== undefined) {
    const field = document.querySelector<HTMLInputElement>('input[aria-label=Search]')!;
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(field, type);
    field.dispatchEvent(new Event('input', { bubbles: true }));
  }
  if (folder !== undefined) document.querySelectorAll<HTMLElement>('[role=treeitem]')[folder]!.click();
  return new Promise((resolve) => {
    const look = () => {
      const time = performance.now() - start;
      if (shown() !== before) resolve(time);
      else if (time > 500) resolve(null);
      else requestAnimationFrame(look);
    };
    requestAnimationFrame(look);
  });
}

async function folderTimes(page: Page): Promise<number[]> {
  await page.getByRole('treeitem').first().waitFor();
  const times: number[] = [];
  for (let folder = 0; folder < FOLDERS; folder++) {
    const took = await page.evaluate(drawn, { folder });
    if (took === null) throw new Error(`folder ${folder} is not drawn within half a second`);
    times.push(took);
  }
  // The folder that is open closes with a click on it.
  await page.evaluate(drawn, { folder: FOLDERS - 1 });
  return times;
}

/** Milliseconds of each frame while the list is scrolled from end to end, a stretch a frame. */
function scrollFrames(page: Page): Promise<number[]> {
  return page.evaluate(
    (frames) =>
      new Promise<number[]>((resolve) => {
        const list = document.querySelector<HTMLElement>('[role=listbox]')!;
        const times: number[] = [];
        let last = performance.now();
        const step = (now: number) => {
          times.push(now - last);
          last = now;
          list.scrollTop = (list.scrollHeight / frames) * times.length;
          if (times.length < frames) requestAnimationFrame(step);
          else resolve(times.slice(1));
        };
        requestAnimationFrame(step);
      }),
    SCROLLED_FRAMES,
  );
}

async function previewTimes(page: Page): Promise<number[]> {
  const times: number[] = [];
  await page.locator('[role=listbox]').evaluate((list) => list.scrollTo({ top: 0 }));
  await page.locator('[role=option][aria-posinset="1"]').waitFor();
  for (let i = 2; i <= 13; i++) {
    const row = page.locator(`[role=option][aria-posinset="${i}"]`);
    const name = (await row.locator('span').first().textContent())!.trim();
    const start = performance.now();
    await row.click();
    await page.getByRole('heading', { name, exact: true }).waitFor();
    times.push(performance.now() - start);
  }
  return times;
}
