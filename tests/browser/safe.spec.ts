/** What is a person's own stays: files that are there already, and an import that was cut off. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { fillWhereTo, GAMES, unlockedGame } from './support';

const [BLUE, RED] = ['cabins/livery/cabin_01_blue.png', 'cabins/livery/cabin_07_red.png'];

test('files that are there are decided on one by one before anything is written', async ({ page }) => {
  const { id } = await unlockedGame(page, 'deciding');
  const out = join(GAMES, 'deciding-out');
  rmSync(out, { recursive: true, force: true });
  mkdirSync(join(out, 'cabins/livery'), { recursive: true });
  for (const path of [BLUE, RED]) writeFileSync(join(out, path), `mine ${path}`);
  await page.request.post(`/api/games/${id}/tray`, { data: { add: [BLUE, RED], remove: [], clear: true } });
  await page.goto(`/games/${id}/take-out`);
  await fillWhereTo(page, out);
  await page.getByRole('button', { name: 'Take out', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('2 files in this folder were not taken out from here');
  await dialog.getByRole('radio', { name: 'Decide for each file' }).check();
  await dialog.getByLabel(`What happens to ${RED}`).click();
  await page.getByRole('option', { name: 'Move mine aside' }).click();
  await dialog.getByRole('button', { name: 'Take out' }).click();
  await expect(page.getByTestId('run take-out').first()).toContainText('1 file', { timeout: 60_000 });
  expect(readFileSync(join(out, BLUE), 'utf8')).toBe(`mine ${BLUE}`);
  expect(readFileSync(join(out, RED.replace('.png', ' (mine).png')), 'utf8')).toBe(`mine ${RED}`);
  expect(readFileSync(join(out, RED)).subarray(1, 4).toString()).toBe('PNG');
});

test('an import that a reload cut off is finished with the files that are missing', async ({ page }) => {
  test.setTimeout(120_000);
  const { id } = await unlockedGame(page, 'cut-off');
  const folder = join(GAMES, 'cut-off-edited');
  mkdirSync(folder, { recursive: true });
  const paint = (background: string) =>
    sharp({ create: { width: 256, height: 256, channels: 4, background } })
      .png()
      .toBuffer();
  const files = [join(folder, 'cabin_01_blue.png'), join(folder, 'cabin_07_red.png')];
  writeFileSync(files[0]!, await paint('#104080'));
  writeFileSync(files[1]!, await paint('#801040'));
  await page.goto(`/games/${id}/change`);
  // The second file never comes: its request hangs until the page is left.
  let holds = true;
  await page.route(/\/files\?name=cabin_07/, (route) => (holds ? undefined : route.continue()));
  await page.getByTestId('drop-files').setInputFiles(files);
  await expect(page.getByText('Sending 1 of 2')).toBeVisible();
  await page.reload();
  holds = false;
  const note = page.getByText(/was cut off: 1 of 2 files came\. Missing: cabin_07_red\.png/);
  await expect(note).toBeVisible({ timeout: 40_000 });
  await page.getByTestId('missing-files').setInputFiles([files[1]!]);
  await expect(page.getByText('2 taken.')).toBeVisible({ timeout: 60_000 });
  await expect(note).toHaveCount(0);
  const list = page.getByRole('list', { name: 'What is changed' });
  for (const name of ['cabin_01_blue.png', 'cabin_07_red.png']) await expect(list).toContainText(name);
});

test('a file of more than ten megabytes arrives whole', async ({ page }) => {
  const { id } = await unlockedGame(page, 'whole');
  const bytes = Buffer.alloc(23_000_000, 'all of it ');
  const begun = await page.request.post(`/api/games/${id}/drops`, { data: { files: [] } });
  const { id: drop } = (await begun.json()) as { id: number };
  const sent = await page.request.post(`/api/games/${id}/drops/${drop}/files?name=large.bin`, { data: bytes });
  expect(await sent.json()).toMatchObject({ name: 'large.bin', size: bytes.length });
});

test('a name that would turn the line round is shown as the codes it is made of', async ({ page }) => {
  const folder = join(GAMES, 'turned-names');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const make = `import sys, zipfile
with zipfile.ZipFile(sys.argv[1], 'w') as z: z.writestr('letters/invoice\u202etxt.exe', 'hello')`;
  execFileSync('python3', ['-c', make, join(folder, 'data.zip')]);
  await page.request.post('/api/games', { data: { folder } });
  const games = (await (await page.request.get('/api/games')).json()) as { id: number; folder: string }[];
  const { id } = games.find((game) => game.folder === folder)!;
  await page.goto(`/games/${id}/find?folder=letters`);
  await expect(page.getByText('invoice\\u{202E}txt.exe').first()).toBeVisible({ timeout: 60_000 });
  for (const path of ['open', 'take-out', 'change', 'runs']) {
    await page.goto(`/games/${id}/${path}`);
    expect(await page.evaluate(() => document.body.innerText)).not.toMatch(/[\u202a-\u202e\u2066-\u2069]/);
  }
});
