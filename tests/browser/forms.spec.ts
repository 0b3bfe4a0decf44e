/** Meshes, a film and records, as a modder meets them: turned, played, followed, changed. */
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { go, tryKey, unlockedGame } from './support';

test('a mesh is turned and its clip stepped, a film plays with subtitles, records are followed and changed', async ({
  page,
}) => {
  const { id } = await unlockedGame(page, 'forms');
  await tryKey(page, gameKey('1.4.1', 'reel').toString('hex'));
  await expect(page.getByTestId('archive scenes.reel')).toContainText('70 entries', { timeout: 60_000 });

  // A mesh: really drawn, and drawn again when it is turned.
  await page.goto(`/games/${id}/find?folder=models/crane&view=list`);
  await page.getByRole('option', { name: /crane\.mesh/ }).click();
  const side = page.getByRole('complementary', { name: 'The selected entry' });
  const canvas = side.locator('canvas');
  await expect(canvas).toHaveAttribute('data-triangles', /^(220|2\d\d)$/);
  await expect(side).toContainText('220 triangles, 272 vertices in 2 parts');
  await expect(side).toContainText('5 shells, all closed');
  const look = async () =>
    sharp(await canvas.screenshot())
      .raw()
      .toBuffer();
  const before = await look();
  const { channels } = await sharp(await canvas.screenshot()).stats();
  expect(Math.max(...channels.map(({ stdev }) => stdev))).toBeGreaterThan(8);
  await side.getByRole('application').focus();
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowLeft');
  await expect.poll(async () => (await look()).equals(before)).toBe(false);
  await side.getByRole('button', { name: 'turn', exact: true }).click();
  await side.getByRole('button', { name: 'Next frame' }).click();
  await expect(side.getByRole('status')).toHaveText('2 / 36');
  await side.getByRole('button', { name: 'side by side' }).click();
  await expect.poll(async () => Number(await canvas.getAttribute('data-triangles'))).toBeGreaterThan(380);

  // A film: one packet of it is enough to see it.
  await page.goto(`/games/${id}/find?folder=film/pictures&view=list`);
  await page.getByRole('option', { name: /000500\.png/ }).click();
  await side.getByRole('button', { name: 'Play the film' }).click();
  const video = side.locator('video');
  await expect
    .poll(() => video.evaluate((film: HTMLVideoElement) => film.duration), { timeout: 60_000 })
    .toBeGreaterThan(3.5);
  await side.getByRole('button', { name: 'Subtitles in de' }).click();
  await expect
    .poll(() =>
      video.evaluate(
        (film: HTMLVideoElement) => [...film.textTracks].find(({ mode }) => mode === 'showing')?.cues?.length,
      ),
    )
    .toBe(2);
  await side.getByRole('button', { name: 'Previous frame' }).click();
  await expect(side.getByText(/^picture \d+, /)).toBeVisible();

  // Records: gathered, a switch looked for, a value changed.
  // A font of pictures draws any line; longer ones are wider.
  await page.goto(`/games/${id}/find?folder=fonts&view=list`);
  await page.getByRole('option', { name: /board\.gpf/ }).click();
  const drawn = (name: string) =>
    side.getByRole('img', { name }).evaluate((one: HTMLImageElement) => (one.complete ? one.naturalWidth : 0));
  await side.getByLabel('Text in this font').fill('TAL');
  await expect.poll(() => drawn('TAL')).toBe(3 * 18 + 8);
  await side.getByLabel('Text in this font').fill('TALSTATION');
  await expect.poll(() => drawn('TALSTATION')).toBe(10 * 18 + 8);

  await page.getByRole('button', { name: 'Records as tables' }).click();
  await page.getByRole('button', { name: 'Read the records' }).click();
  await page.getByRole('button', { name: /timetable\.json.*16/ }).click();
  const table = page.getByRole('table');
  const switches = await table
    .getByRole('button', { name: /^switches: / })
    .first()
    .getAttribute('aria-label');
  const one = /\[?(\d+)/.exec(switches!)![1]!;
  await page.getByLabel('Find a value in all records').fill(one);
  await page.getByRole('button', { name: 'Where?' }).click();
  await page.getByRole('button', { name: /^switches / }).click();
  await expect(page.getByRole('button', { name: 'Show all rows' })).toContainText(`switches is ${one}`);
  const station = table.getByRole('button', { name: /^station: / }).first();
  await station.focus();
  await page.keyboard.press('Enter');
  await page.getByRole('textbox', { name: /^station of / }).fill('Milk Halt');
  await page.keyboard.press('Enter');
  await expect(table.getByRole('button', { name: 'station: Milk Halt' })).toBeVisible();
  await expect(table).toContainText('changed');
  await go(page, 'Change');
  await expect(page.getByRole('main')).toContainText('timetable.json');
});
