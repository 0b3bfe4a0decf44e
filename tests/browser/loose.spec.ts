/** A game of loose files alone, made by other programs: browsed, seen, replaced as it was stored, and put back. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { z } from 'zod';
import { GAMES, go, openFolder } from './support';

const folder = join(GAMES, 'loose-files');
const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
const pixelFormat = (path: string) =>
  execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'stream=width,height,pix_fmt', '-of', 'csv=p=0', path], {
    encoding: 'utf8',
  }).trim();

test('files without an archive are browsed, and a picture with a palette comes back with one', async ({ page }) => {
  test.setTimeout(180_000);
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, 'art'), { recursive: true });
  const cabin = join(folder, 'art', 'cabin.pcx');
  ffmpeg('-f', 'lavfi', '-i', 'testsrc=size=64x48:duration=0.1', '-frames:v', '1', '-pix_fmt', 'rgb8', cabin);
  ffmpeg('-f', 'lavfi', '-i', 'sine=440:duration=1', join(folder, 'chime.wv'));
  writeFileSync(join(folder, 'stop.lst'), Buffer.from('N\xe4chster Halt: Oberstadt\nAusstieg links\n', 'latin1'));

  const id = await openFolder(page, folder);
  await expect(page.getByText('3 loose files').first()).toBeVisible({ timeout: 30_000 });
  await page.goto(`/games/${id}/find?view=list`);
  await expect(page.getByRole('option')).toHaveCount(3);
  await page.getByRole('option', { name: /cabin\.pcx/ }).click();
  const inspector = page.getByRole('complementary', { name: 'Entry' });
  await expect(inspector).toContainText('64 × 48');
  await page.getByRole('option', { name: /stop\.lst/ }).click();
  await expect(inspector).toContainText('Nächster Halt: Oberstadt');

  const mine = await sharp({ create: { width: 64, height: 48, channels: 3, background: '#ff0000' } })
    .png()
    .toBuffer();
  const drops = `/api/games/${id}/drops`;
  const { id: drop } = z.object({ id: z.number() }).parse(await (await page.request.post(drops)).json());
  await page.request.post(`${drops}/${drop}/files?name=cabin.png&path=art%2Fcabin.pcx`, { data: mine });
  await page.request.post(`${drops}/${drop}/bring-in`);
  await page.goto(`/games/${id}/change`);
  await expect(page.getByRole('list', { name: 'What is changed' })).toContainText('cabin.pcx');
  const before = readFileSync(cabin);
  await go(page, 'Put back');
  await page.getByRole('button', { name: 'Build and test' }).click();
  await page.getByRole('button', { name: 'Put into the game folder' }).click({ timeout: 60_000 });
  await expect.poll(() => Buffer.compare(readFileSync(cabin), before) !== 0, { timeout: 60_000 }).toBe(true);
  expect(pixelFormat(cabin)).toBe('64,48,pal8');
});
