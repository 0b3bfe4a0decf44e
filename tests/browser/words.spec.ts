/** Words, as a translator works on them: typed, taken out as PO and brought back, built, and heard of in the game. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { GAMES, go, unlockedGame } from './support';

test('texts are typed by keyboard, go out as PO, come back, and go into the game', async ({ page }) => {
  await unlockedGame(page, 'words');
  await go(page, 'Change');
  await page.getByRole('link', { name: /Work on words: 3 tables/ }).click();
  const table = page.getByRole('table', { name: 'Texts' });
  await expect(table.getByRole('row').first()).toBeVisible();
  await page.getByLabel('Search in the texts').fill('tannoy.doors');
  await expect(table.getByRole('row')).toHaveCount(1);
  const field = page.getByLabel('Text of tannoy.doors');
  await field.fill('Achtung {0}');
  await field.press('Tab');
  await expect(table).toContainText('{0} is not in the source');
  await field.fill('Achtung, die Türen');
  await field.press('Tab');
  await expect(table).toContainText('changed');
  await page.getByLabel('Search in the texts').fill('');
  await page.getByRole('button', { name: /^Left to do/ }).click();
  await expect(table.getByRole('row').first()).toContainText('left to do');

  await page.getByRole('button', { name: 'Take texts out…' }).click();
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'PO', exact: true }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('de.po');
  await download.saveAs(join(GAMES, 'de.po'));
  const po = readFileSync(join(GAMES, 'de.po'), 'utf8');
  expect(po).toContain('msgstr "Achtung, die Türen"');
  await page.getByTestId('words-file').setInputFiles({
    name: 'de.po',
    mimeType: 'text/plain',
    buffer: Buffer.from(po.replace('msgstr "Achtung, die Türen"', 'msgstr "Bitte die Türen beachten"')),
  });
  await page.getByRole('button', { name: /^Changed/ }).click();
  await expect(page.getByLabel('Text of tannoy.doors')).toHaveValue('Bitte die Türen beachten', { timeout: 20_000 });
  await page.getByTestId('words-file').setInputFiles({
    name: 'bad.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('a,b\n1,2\n'),
  });
  await expect(page.getByText('first line has to name the columns')).toBeVisible();

  await go(page, 'Put back');
  await page.getByRole('radio', { name: /Rebuild/ }).check();
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByRole('heading', { name: 'Test run of build #1' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('words/de.lex').last()).toBeVisible();
  await expect(page.getByText('Everything else is byte for byte as it was')).toBeVisible();
});
