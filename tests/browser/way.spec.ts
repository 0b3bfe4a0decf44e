/** The whole way, as a modder goes it: a real key, a real picture, a real sound, real files on disk. */
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { alerts, cli, fillWhereTo, fingerprint, GAMES, go, HOME, KEY, makeGame, openGame, tryKey } from './support';

const files = join(HOME, 'games', 'edited');

test('open, find, take out, change, put back, take out again', async ({ page }) => {
  const folder = makeGame('way');
  const before = fingerprint(folder);

  await test.step('Open: locked, a wrong key says why, the right one opens and proves', async () => {
    await openGame(page, folder);
    const row = page.getByTestId('archive core.hold');
    await expect(row).toContainText('Locked. Needs an aes-256 key for “content”.');
    await expect(page.getByTestId('unknown gondola-post.bin')).toBeVisible();
    await tryKey(page, KEY.replace(/^../, 'ff'));
    await expect(alerts(page).first()).toContainText(/mark at 0x0 of the unlocked index should read "ROWS" and reads/);
    await expect(row).toContainText('Locked');
    await tryKey(page, KEY.slice(0, 32));
    await expect(alerts(page).first()).toContainText('found 16 bytes. Was it copied whole?');
    await tryKey(page, KEY);
    await expect(page.getByRole('status').filter({ hasText: 'It opens core.hold, core-spring.hold.' })).toBeVisible();
    const proof = page.getByRole('list', { name: 'Proof of core.hold' });
    for (const line of [
      '100 % explained',
      '2,237 of 2,237 formulas',
      'rebuilds identically',
      '319 of 319 changed and back',
    ])
      await expect(proof).toContainText(line);
    await expect(page.locator('body')).not.toContainText(KEY.slice(4, 12));
  });

  await test.step('Find: folders, search, kinds, details, previews, the strip', async () => {
    await go(page, 'Find');
    await page.getByRole('treeitem', { name: /^cabins/ }).click();
    await expect(page.getByText('95 entries')).toBeVisible();
    await page.getByRole('treeitem', { name: /^cabins/ }).click();
    const search = page.getByRole('combobox', { name: 'Search' });
    await search.fill('cabin_07 kind:picture -snow');
    await page.getByRole('option', { name: 'cabins/livery/cabin_07_red.png' }).click();
    const inspector = page.getByRole('complementary', { name: 'The selected entry' });
    await expect(inspector).toContainText('256 × 256, PNG, with alpha');
    await expect(page.getByTestId('strip-mark')).toBeVisible();
    await inspector.getByRole('button', { name: 'Channel A' }).click();
    await inspector.getByRole('tab', { name: 'Bytes' }).click();
    await expect(inspector.getByRole('region', { name: 'Bytes' })).toContainText('89 50 4E 47 0D 0A 1A 0A');
    await inspector.getByRole('tab', { name: 'Fields' }).click();
    await expect(inspector).toContainText('= crc32(entry.data)');
    await inspector.getByRole('tab', { name: 'View' }).click();
    await inspector.getByRole('button', { name: 'Add to tray' }).click();
    await expect(inspector.getByRole('button', { name: 'Remove from tray' })).toBeVisible();
    await search.fill('doors_closing');
    await page.getByRole('option', { name: 'tannoy/doors_closing.wav' }).click();
    await expect(inspector.getByRole('img', { name: /Waveform of/ })).toHaveAttribute('data-ready', 'true');
    await page.keyboard.press('Escape');
    await page.getByRole('listbox', { name: 'Entries' }).focus();
    await page.keyboard.press('t');
    await expect(inspector.getByRole('button', { name: 'Remove from tray' })).toBeVisible();
    await search.fill('words/en');
    await page.getByRole('option', { name: 'words/en/captions.txt' }).click();
    await expect(inspector.getByLabel('Text')).toContainText('Mind the doors, please.');
    await inspector.getByRole('button', { name: 'Add to tray' }).click();
    await page.reload();
    await expect(search).toHaveValue('words/en');
    await expect(inspector.getByLabel('Text')).toContainText('Mind the doors, please.');
  });

  const out = join(GAMES, `taken-${test.info().retry}`);
  await test.step('Take out: into a folder as a run, and as a ZIP', async () => {
    await go(page, 'Take out');
    await expect(page.getByRole('list', { name: 'The tray' }).getByRole('listitem')).toHaveCount(3);
    await fillWhereTo(page, out);
    await page.getByRole('button', { name: 'Take out', exact: true }).click();
    await expect(page.getByTestId('run take-out')).toContainText('3 files');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Download as one ZIP' }).click(),
    ]);
    const zip = await download.path();
    expect(readFileSync(zip).subarray(0, 4).toString('latin1')).toBe('PK\u0003\u0004');
    expect(existsSync(join(out, 'tannoy/doors_closing.wav'))).toBe(true);
  });

  mkdirSync(files, { recursive: true });
  const picture = join(files, 'cabin_07_red.png');
  const sound = join(files, 'doors_closing.wav');
  const words = join(files, 'captions.txt');
  await sharp({ create: { width: 512, height: 512, channels: 3, background: '#2f5d46' } })
    .png()
    .toFile(picture);
  const wave = readFileSync(join(out, 'tannoy/doors_closing.wav'));
  // The same sound, backwards: sample by sample.
  const samples = new Int16Array(wave.buffer.slice(wave.byteOffset + 44, wave.byteOffset + wave.length)).reverse();
  writeFileSync(sound, Buffer.concat([wave.subarray(0, 44), Buffer.from(samples.buffer)]));
  writeFileSync(
    words,
    readFileSync(join(out, 'words/en/captions.txt'), 'utf8').replace('Mind the doors', 'Mind the goats'),
  );

  await test.step('Change: dropped on the station, compared, a wrong kind refused, undone and back', async () => {
    await go(page, 'Change');
    const drop = page.getByTestId('drop-files');
    await drop.setInputFiles(picture);
    await expect(page.getByText('yours was 512 × 512, resized to 256 × 256')).toBeVisible();
    await expect(page.getByRole('img', { name: 'cabin_07_red.png after, as the game will have it' })).toBeVisible();
    await drop.setInputFiles(sound);
    await expect(page.getByRole('img', { name: 'Waveform of doors_closing.wav after' })).toHaveAttribute(
      'data-ready',
      'true',
    );
    const wrong = join(files, 'cabin_08_sky.png');
    writeFileSync(wrong, 'this is only text');
    await drop.setInputFiles(wrong);
    await expect(alerts(page)).toContainText('expected a picture, found text, although its name says picture');
    await drop.setInputFiles(words);
    await expect(page.getByText('Which entry is it for?')).toBeVisible();
    await expect(page.getByRole('button', { name: 'It is for words/de/captions.txt' })).toBeVisible();
    await page.getByRole('button', { name: 'Skip this file' }).click();
    await expect(page.getByText('1 file needs a decision')).toBeVisible();
    await page.goto(page.url().replace(/change.*/, 'find?search=words/en'));
    await page.getByRole('option', { name: 'words/en/captions.txt' }).click();
    await expect(page.getByLabel('Text')).toContainText('Mind the doors');
    await page.getByTestId('replace-file').setInputFiles(words);
    await page.getByRole('button', { name: 'Look at it' }).click();
    await expect(page.getByLabel('Lines that differ')).toContainText('Mind the goats, please.');
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('listitem').filter({ hasText: 'captions.txt' })).toContainText('undone');
    await page
      .getByRole('listitem')
      .filter({ hasText: 'captions.txt' })
      .getByRole('button', { name: 'Bring it back' })
      .click();
    await expect(page.getByRole('navigation', { name: 'Steps' })).toContainText('3 changed');
  });

  for (const way of ['A small archive that loads last', 'Rebuild the archives that changed']) {
    await test.step(`Put back: ${way}`, async () => {
      await go(page, 'Put back');
      await page.getByRole('radio', { name: new RegExp(way) }).check();
      await page.getByRole('button', { name: 'Build and test' }).click();
      const number = way.startsWith('A small') ? 1 : 2;
      await expect(page.getByRole('heading', { name: `Test run of build #${number}` })).toBeVisible({
        timeout: 60_000,
      });
      await expect(
        page.getByRole('img', { name: /title scene: cabins\/livery\/cabin_07_red\.png, “Mind the goats, please\.”/ }),
      ).toBeVisible();
      const id = /games\/(\d+)/.exec(page.url())![1];
      const putBack = (await (await page.request.get(`/api/games/${id}/put-back`)).json()) as {
        builds: { id: number; report: { started: boolean; scene: { livery: { from: string } } } }[];
      };
      expect(putBack.builds[0]!.report).toMatchObject({ started: true, findings: [] });
      const shown = await page.request.get(
        `/api/games/${id}/builds/${putBack.builds[0]!.id}/scene?when=after&what=sound`,
      );
      expect(Buffer.compare(await shown.body(), readFileSync(sound))).toBe(0);

      await page.getByRole('button', { name: 'Put into the game folder' }).click();
      await expect(page.getByRole('button', { name: 'Take it out again' })).toBeVisible();
      expect(fingerprint(folder)).not.toEqual(before);
      const judged = JSON.parse(cli('judge', folder, '--json')) as object;
      expect(judged).toMatchObject({ started: true, scene: { caption: 'Mind the goats, please.' } });

      await page.getByRole('button', { name: 'Take it out again' }).click();
      await expect(page.getByText(`Build #${number} taken out`)).toBeVisible();
      expect(fingerprint(folder)).toEqual(before);
    });
  }

  await test.step('Scanned again, nothing has changed', async () => {
    await go(page, 'Open');
    await page.getByRole('button', { name: 'Scan the folder again' }).click();
    await expect(page.getByRole('list', { name: 'Proof of core.hold' })).toContainText('319 of 319 changed and back');
    await page.goto(page.url().replace('/open', '/runs'));
    await expect(page.getByTestId('run scan').first()).toContainText('done');
  });
});
