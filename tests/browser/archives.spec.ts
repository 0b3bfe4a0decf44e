/** Archives of every kind the demo game has, through the page: volumes, patches, several keys, two recipes that fit. */
import { copyFileSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { gameKey } from '../../demo/make-game';
import { fingerprint, GAMES, go, makeGame, openGame, tryKey } from './support';

test('every archive opens and proves, and one of two files goes back into the game', async ({ page }) => {
  const folder = makeGame('every-kind');
  const before = fingerprint(folder);
  const id = await openGame(page, folder);
  const keys = page.getByRole('complementary', { name: 'Keys' });
  await expect(keys).toContainText('a key of 8 bytes for “voices”: voices.cue, voices.de.cue, voices.fr.cue');
  for (const slot of ['content', 'voices', 'reel'] as const) {
    await tryKey(page, gameKey('1.4.1', slot).toString('hex'));
    await expect(page.getByRole('status').filter({ hasText: 'It opens' })).toContainText(
      { content: 'core-spring.hold', voices: 'voices.fr.cue', reel: 'scenes.reel' }[slot],
    );
  }
  await expect(keys).toContainText('Nothing is locked.');
  const proofs = page.getByRole('list', { name: /^Proof of/ });
  await expect(proofs).toHaveCount(15);
  for (const proof of await proofs.all()) await expect(proof).toContainText(/100 % explained.*rebuilds identically/s);
  await expect(page.getByTestId('archive world.idx')).toContainText(/world\.idx \+ 3 volumes.*222 nameless · 523 kB/);

  // A patch says that two letters are gone.
  await page.goto(`/games/${id}/find?search=letters/sent/letter_02`);
  await expect(page.getByText('No entries match')).toBeVisible();

  const shelf = join(GAMES, 'edited-shelf');
  mkdirSync(shelf, { recursive: true });
  writeFileSync(join(shelf, 'shelf_01.json'), JSON.stringify([{ id: 1, holds: 'a very long rope'.repeat(40) }]));
  await go(page, 'Change');
  await page.getByTestId('drop-files').setInputFiles(join(shelf, 'shelf_01.json'));
  // While it is taken in, the file and the change may both be listed.
  await expect(page.getByRole('listitem').filter({ hasText: /shelf_01\.json.*fits/s })).toBeVisible();
  await go(page, 'Put back');
  await page.getByRole('radio', { name: /Rebuild the archives that changed/ }).click();
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByText('Filled the shelves')).toBeVisible();
  await expect(page.getByText('stock.cache', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Put into the game folder' }).click();
  await expect(page.getByRole('button', { name: 'Take it out again' })).toBeVisible();
  expect(readFileSync(join(folder, 'stock.cache')).length).toBeGreaterThan(0);
  expect(fingerprint(folder)).not.toEqual(before);
  await page.getByRole('button', { name: 'Take it out again' }).click();
  await expect(page.getByRole('button', { name: 'Put into the game folder' })).toBeEnabled();
  expect(fingerprint(folder)).toEqual(before);
});

test('of two recipes that fit, a person chooses', async ({ page }) => {
  const made = makeGame('two-fit-source');
  const folder = join(GAMES, 'two-fit');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  copyFileSync(join(made, 'parcels.set'), join(folder, 'parcels.set'));
  const shipped = readFileSync(join(__dirname, '../../recipes/parcel-set.yaml'), 'utf8');
  const text = shipped.replace('recipe: parcel-set', 'recipe: a-guess').replace('title: Parcel set', 'title: A guess');
  const saved = await page.request.post('/api/recipes', { data: { text } });
  expect(saved.status()).toBe(200);
  await page.goto('/');
  const answer = await page.request.post('/api/games', { data: { folder } });
  const { game } = (await answer.json()) as { game: { id: number } };
  await page.goto(`/games/${game.id}/open`);
  const row = page.getByTestId('archive parcels.set');
  await expect(row).toContainText('2 recipes fit. Which one is it?');
  await expect(row).toContainText('“PSET” is at 0x0');
  await row.getByRole('button', { name: 'Parcel set' }).click();
  await expect(row).toContainText('12 entries');
  await expect(row.getByRole('button', { name: 'Parcel set' })).toHaveAttribute('aria-pressed', 'true');
  // Other games of these tests have such sets as well: a newer revision fits none of them.
  const away = text.replace(/^revision: (\d+)/m, (_, one) => `revision: ${Number(one) + 1}`).replace('PSET', 'AWAY');
  expect((await page.request.post('/api/recipes', { data: { text: away } })).status()).toBe(200);
});
