import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { gameKey } from '../../demo/make-game';
import type { RunAnswer } from '../../src/server/shapes';

export const HOME = process.env.ZERO_LATCH_HOME!;
export const GAMES = join(HOME, 'games');
export const KEY = gameKey('1.4.1', 'content').toString('hex');
const CHECKOUT = join(__dirname, '../..');

/** The demo game as it was made before the tests. */
export const demoAsMade = (build: '1.4.1' | '1.4.2'): string => join(process.env.ZERO_LATCH_DEMO_AS_MADE!, build);

/** A demo game of its own, under the allowed roots: a copy, for making it takes seconds. */
export function makeGame(name: string): string {
  // A second try is another game: of the first one keys and installs are left.
  const { retry } = test.info();
  const folder = join(GAMES, retry === 0 ? name : `${name}-${retry}`);
  rmSync(folder, { recursive: true, force: true });
  cpSync(demoAsMade('1.4.1'), folder, { recursive: true });
  return folder;
}

export function cli(...args: string[]): string {
  return execFileSync(join(CHECKOUT, 'bin/zero-latch'), args, { encoding: 'utf8' });
}

/** Every file below a folder with its hash. */
export function fingerprint(folder: string): Record<string, string> {
  const files = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((file) => file.isFile());
  return Object.fromEntries(
    files
      .map((file) => join(file.parentPath, file.name))
      .sort()
      .map((path) => [path, createHash('sha256').update(readFileSync(path)).digest('hex')]),
  );
}

/** Opens a folder as a game, through the page. @returns the game's number */
export async function openFolder(page: Page, folder: string): Promise<number> {
  await page.goto('/');
  await page.getByRole('button', { name: /Choose a folder…|Another folder…/ }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('textbox', { name: 'Folder' }).fill(folder);
  await dialog.getByRole('button', { name: 'This is the game' }).click();
  await page.waitForURL(/\/games\/\d+\/open/);
  return Number(/games\/(\d+)/.exec(page.url())![1]);
}

/** The same for a folder of the demo game, once it is scanned. */
export async function openGame(page: Page, folder: string): Promise<number> {
  const id = await openFolder(page, folder);
  await expect(page.getByTestId('archive core.hold')).toContainText(/Locked|entries/);
  return id;
}

export async function tryKey(page: Page, key: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Key' }).fill(key);
  await page.getByRole('button', { name: 'Try it' }).click();
}

/** Opens and unlocks. The proofs behind it take a core for ten seconds: they are stopped unless a test looks at them. */
export async function unlockedGame(
  page: Page,
  name: string,
  { proven = false }: { readonly proven?: boolean } = {},
): Promise<{ id: number; folder: string }> {
  const folder = makeGame(name);
  const id = await openGame(page, folder);
  await tryKey(page, KEY);
  await expect(page.getByTestId('archive core.hold')).toContainText('319 entries', { timeout: 60_000 });
  if (!proven) await stopProofs(page, id);
  return { id, folder };
}

/** The last of them begins once the archives that a key has opened are read. */
async function stopProofs(page: Page, id: number): Promise<void> {
  await expect(async () => {
    const runs = (await (await page.request.get(`/api/runs?game=${id}`)).json()) as RunAnswer[];
    const proofs = runs.filter(({ kind }) => kind === 'prove');
    for (const run of proofs)
      if (run.state === 'waiting' || run.state === 'working') await page.request.post(`/api/runs/${run.id}/stop`);
    const unlock = runs.find(({ kind }) => kind === 'unlock');
    expect(unlock?.state).toBe('done');
    expect(proofs.some((run) => run.id > unlock!.id)).toBe(true);
  }).toPass();
}

export async function go(page: Page, station: string): Promise<void> {
  await page
    .getByRole('navigation', { name: 'Steps' })
    .getByRole('link', { name: new RegExp(`^${station}`) })
    .click();
}

/** What is told as a fault; the framework's own announcer is none. */
export function alerts(page: Page): Locator {
  return page.locator('[role=alert]:not(#__next-route-announcer__)');
}

/** Brings one file for an entry, through the interface of the server, and waits until it is a change. */
export async function bringFor(page: Page, id: number, path: string, data: string): Promise<void> {
  const url = `/api/games/${id}/drops`;
  const { id: drop } = (await (await page.request.post(url)).json()) as { id: number };
  const name = path.slice(path.lastIndexOf('/') + 1);
  await page.request.post(`${url}/${drop}/files?${new URLSearchParams({ name, path }).toString()}`, { data });
  await page.request.post(`${url}/${drop}/bring-in`);
  await expect
    .poll(async () => {
      const changes = (await (await page.request.get(`/api/games/${id}/changes`)).json()) as { path: string }[];
      return changes.map((change) => change.path);
    })
    .toContain(path);
}

/** Types a folder over the one that is offered, once that is there. */
export async function fillWhereTo(page: Page, folder: string): Promise<void> {
  const field = page.getByRole('textbox', { name: 'Where to' });
  await expect(field).not.toHaveValue('');
  await field.fill(folder);
}

/** Colours that are on their way to others are no colours to judge. */
export async function stillLook(page: Page): Promise<void> {
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every((one) => one.playState !== 'running' || one.effect?.getTiming().iterations === Infinity),
  );
}
