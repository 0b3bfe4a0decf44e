/** A hundred files at once: dropped as a folder, matched, asked about, undone; and one entry in the place of another. */
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import type { EntryPage } from '../../src/server/shapes';
import { alerts, GAMES, go, stillLook, unlockedGame } from './support';

test('a folder of a hundred files finds its places; the rest is asked and settled by keyboard', async ({ page }) => {
  test.setTimeout(240_000);
  const { id } = await unlockedGame(page, 'hundred');
  const folder = join(GAMES, 'hundred-edited');
  rmSync(folder, { recursive: true, force: true });
  const put = (name: string, bytes: Uint8Array) => {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), bytes);
  };
  const found = await page.request.get(`/api/games/${id}/entries?limit=97&search=archive:core.hold%20.png`);
  const { rows } = (await found.json()) as EntryPage;
  const picture = await sharp({ create: { width: 60, height: 60, channels: 4, background: '#2f6048' } })
    .png()
    .toBuffer();
  for (const { path } of rows) put(path, picture);
  put('view.png', picture);
  put('nothing_like_it.png', picture);
  put('models/cabin/cabin_normal.png', Buffer.from('a text that calls itself a picture'));

  await page.goto(`/games/${id}/change`);
  await page.getByTestId('drop-folder').setInputFiles(folder);
  await expect(page.getByText('97 taken, 3 need a decision.')).toBeVisible({ timeout: 120_000 });
  await expect(page.getByText('3 files need a decision')).toBeVisible();
  const list = page.getByRole('list', { name: 'What is changed' });
  await expect(list.getByRole('listitem').first()).toContainText('does not fit');

  await list.getByRole('button', { name: /cabin_normal.png/ }).click();
  await expect(alerts(page).first()).toContainText('no picture');
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText('No entry has the name or label of this file')).toBeVisible();
  await page.getByRole('combobox', { name: 'The entry it is for' }).fill('icon_03');
  await page.getByRole('option', { name: /icon_03.png/ }).click();
  await expect(page.getByText('2 files need a decision')).toBeVisible();
  await list
    .getByRole('button', { name: /view.png/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'It is for stations/station_05/view.png' }).press('Enter');
  await expect(page.getByText('1 file needs a decision')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'What the game expects back' })).toContainText('chosen by you');
  await stillLook(page);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);

  await page.getByRole('textbox', { name: 'Note' }).fill('a darker station');
  const noted = page.waitForResponse(
    (response) => response.request().method() === 'PATCH' && /\/changes\/\d+$/u.test(response.url()),
  );
  await page.getByRole('button', { name: /Undo all/ }).click();
  await expect(list.getByText('undone').first()).toBeVisible();
  await noted;
  await page.getByRole('button', { name: 'Skip all' }).click();
  await expect(page.getByText('1 file needs a decision')).toBeHidden();
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Note' })).toHaveValue('a darker station');
});

test('one entry takes the place of another with what belongs to it', async ({ page }) => {
  test.setTimeout(180_000);
  const { id } = await unlockedGame(page, 'instead');
  await page.goto(`/games/${id}/find?search=cabin.mesh`);
  await page.getByRole('option', { name: 'models/cabin/cabin.mesh', exact: true }).click();
  const inspector = page.getByRole('complementary', { name: 'The selected entry' });
  await inspector.getByRole('button', { name: 'Scan references' }).click();
  await expect(inspector.getByText('Uses', { exact: true })).toBeVisible({ timeout: 90_000 });
  await inspector.getByRole('button', { name: 'Replace with another entry…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'The entry that goes there' }).fill('post_box.mesh');
  await page
    .getByRole('option', { name: /^Mesh.*post_box.mesh|post_box.mesh/ })
    .last()
    .click();
  await expect(dialog).toContainText('post_box_colour.tex for cabin_colour.tex');
  await dialog.getByRole('checkbox', { name: 'post_box_normal.tex for cabin_normal.tex' }).uncheck();
  await dialog.getByRole('button', { name: /^Change \d+ entries/ }).click();
  await expect(page.getByText(/is changed\./)).toBeVisible({ timeout: 60_000 });
  await go(page, 'Change');
  const list = page.getByRole('list', { name: 'What is changed' });
  await expect(list).toContainText('cabin_colour.tex');
  await expect(list).toContainText('from another entry');
  await expect(list).not.toContainText('cabin_normal.tex');
});
