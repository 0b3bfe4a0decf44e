/** Putting back, whole ways: new and gone entries, loose files, a routine, an update of the game, mods that meet. */
import { cpSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { gameKey } from '../../demo/make-game';
import { alerts, cli, fingerprint, GAMES, go, tryKey, unlockedGame, demoAsMade } from './support';

const LIVERY = 'cabins/livery/cabin_07_red.png';
const painted = (background: string) =>
  sharp({ create: { width: 256, height: 256, channels: 4, background } })
    .png()
    .toBuffer();

/** Drops a picture for an entry on Change, and waits until it is taken. */
async function repaint(page: Page, path: string, colour: string): Promise<void> {
  await page.getByTestId('drop-files').setInputFiles({
    name: path.slice(path.lastIndexOf('/') + 1),
    mimeType: 'image/png',
    buffer: await painted(colour),
  });
  // A file that still waits is in the list as well.
  const row = page.getByRole('list', { name: 'What is changed' }).getByRole('listitem');
  await expect(row.filter({ hasText: path.slice(path.lastIndexOf('/') + 1) }).first()).toContainText('fits');
  await expect(page.getByRole('progressbar')).toHaveCount(0);
}

async function build(page: Page, number: number): Promise<void> {
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByRole('heading', { name: `Test run of build #${number}` })).toBeVisible({ timeout: 60_000 });
}

test('an entry is new, one is gone, loose files lie beside the game, and a routine does it all again', async ({
  page,
}) => {
  const { id, folder } = await unlockedGame(page, 'new-and-gone');
  const before = fingerprint(folder);
  await go(page, 'Find');
  await page.getByRole('combobox', { name: 'Search' }).fill('icon_30');
  await page.getByRole('option', { name: 'ui/icons/icon_30.png' }).click();
  await page.getByRole('button', { name: 'Remove from the game' }).click();
  await page.getByRole('button', { name: 'Look at it' }).click();
  await expect(page.getByText('It will be removed from the game.')).toBeVisible();
  await page.getByRole('button', { name: 'Add an entry the game does not have…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog
    .getByTestId('new-entry-file')
    .setInputFiles({ name: 'cabin_99.png', mimeType: 'image/png', buffer: await painted('#c06020') });
  await dialog.getByLabel('Path in the game').fill(LIVERY);
  await dialog.getByRole('button', { name: 'Add it' }).click();
  await expect(dialog).toContainText('here is an entry of that name');
  await dialog.getByLabel('Path in the game').fill('cabins/livery/cabin_99.png');
  await dialog.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByRole('heading', { name: 'cabin_99.png' })).toBeVisible();
  await repaint(page, LIVERY, '#2060c0');

  await go(page, 'Put back');
  await expect(page.getByText('3 changes to put back')).toBeVisible();
  await expect(page.getByText(/zz-my-core\.hold, [\d.]+ kB/)).toBeVisible({ timeout: 30_000 });
  await expect(page.getByText('cannot say that an entry is gone')).toBeVisible();
  await page.getByRole('radio', { name: /Rebuild/ }).check();
  await page.getByRole('button', { name: 'As the format orders it, without gaps' }).click();
  await build(page, 1);
  await expect(page.getByText('Everything else is byte for byte as it was')).toBeVisible();
  await page.getByRole('button', { name: 'An entry that no longer fits goes after the others' }).click();
  await build(page, 2);
  await go(page, 'Change');
  await page.getByRole('listitem').filter({ hasText: 'icon_30.png' }).getByRole('button').first().click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'icon_30.png' })).toContainText('undone');

  await go(page, 'Put back');
  await page.getByRole('radio', { name: /Loose files/ }).check();
  await build(page, 3);
  await expect(page.getByText(`cabin from ${LIVERY}`)).toBeVisible();
  await page.getByRole('button', { name: '▶ film' }).click();
  const film = page.getByRole('group', { name: 'The film of scenes.reel' });
  await expect.poll(() => film.getByRole('img').evaluate((one: HTMLImageElement) => one.naturalWidth)).toBe(320);
  // It is shown for a second: asking again and again could miss it.
  await film.evaluate(
    (element) =>
      new Promise<void>((resolve) => {
        const look = () => {
          if (element.textContent.includes('Last cabin to the valley.')) resolve();
        };
        look();
        new MutationObserver(look).observe(element, { subtree: true, childList: true, characterData: true });
      }),
  );
  await expect(film).toHaveCount(0);
  await page.getByRole('button', { name: 'Put into the game folder' }).click();
  await expect(page.getByRole('button', { name: 'Take it out again' })).toBeVisible();
  expect(existsSync(join(folder, 'cabins/livery/cabin_99.png'))).toBe(true);
  expect(JSON.parse(cli('judge', folder, '--json'))).toMatchObject({ started: true });
  await page.getByRole('button', { name: 'Take it out again' }).click();
  await expect(page.getByText('Build #3 taken out')).toBeVisible();
  expect(fingerprint(folder)).toEqual(before);

  const edited = join(GAMES, 'routine-files', 'cabins/livery');
  mkdirSync(edited, { recursive: true });
  writeFileSync(join(edited, 'cabin_07_red.png'), await painted('#208040'));
  await page.getByRole('radio', { name: /small archive/ }).check();
  await page.getByRole('button', { name: 'Save as a routine…' }).click();
  await page.getByLabel('Name').fill('Green cabin');
  await page.getByLabel('Folder of the edited files').fill(join(GAMES, 'routine-files'));
  await page.getByRole('checkbox', { name: /^Put it in/ }).check();
  await page.getByRole('button', { name: 'Save 3 steps' }).click();
  await expect(page.getByText('a small archive that loads last → put in')).toBeVisible();
  await page.getByRole('button', { name: 'Run it' }).click();
  await expect(page.getByRole('button', { name: 'Take it out again' })).toBeVisible({ timeout: 60_000 });
  writeFileSync(join(edited, 'cabin_07_red.png'), await painted('#802040'));
  const said = cli('run', 'Green cabin', '--at', new URL(page.url()).origin);
  expect(said).toContain('3 of 3: Putting in');
  expect(said).toContain('Green cabin: done');
  await expect(page.getByText('Build #4 taken out')).toBeVisible();
  // What lies in the game cannot be deleted; what it replaced is kept with it.
  await page.goto('/');
  await page.getByRole('link', { name: /^Storage/ }).click();
  const row = (number: number) => page.getByRole('row').filter({ hasText: new RegExp(`^New And Gone.* #${number}`) });
  await expect(row(5)).toContainText('in the game');
  await row(4).getByRole('button', { name: 'Delete…' }).click();
  await row(4).getByRole('button', { name: 'Delete', exact: true }).click();
  await expect(row(4)).toHaveCount(0);
  await page.getByRole('button', { name: /^Free / }).click();
  await expect(page.getByTestId('run tidy')).toContainText('done');

  await page.goto(`/games/${id}/put-back`);
  await page.getByRole('button', { name: 'Take it out again' }).click();
  await expect(page.getByText('Build #5 taken out')).toBeVisible();
  expect(fingerprint(folder)).toEqual(before);
});

test('after an update changes say how they stand, three are compared, and all is built anew', async ({ page }) => {
  const { id, folder } = await unlockedGame(page, 'new-build');
  // The next build has another one of this.
  const list = await page.request.get(`/api/games/${id}/entries?search=cabin_04&folder=cabins/livery`);
  const { rows } = (await list.json()) as { rows: { path: string }[] };
  const both = rows.map(({ path }) => path).find((path) => /livery\/cabin_04/.test(path))!;
  await go(page, 'Change');
  await repaint(page, LIVERY, '#2060c0');
  await repaint(page, both, '#104020');
  rmSync(folder, { recursive: true });
  cpSync(demoAsMade('1.4.2'), folder, { recursive: true });
  await go(page, 'Open');
  await page.getByRole('button', { name: 'Scan the folder again' }).click();
  await expect(page.getByTestId('archive core.hold')).toContainText('Locked', { timeout: 30_000 });
  await tryKey(page, gameKey('1.4.2', 'content').toString('hex'));
  await expect(page.getByTestId('archive core.hold')).toContainText('entries', { timeout: 60_000 });
  await go(page, 'Change');
  await expect(page.getByText('1 change does not fit the game as it is now.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('listitem').filter({ hasText: 'cabin_04' }).getByRole('button').first().click();
  await expect(alerts(page)).toContainText('The game changed this entry too, since you did.');
  for (const pair of [
    'the game at that time, and yours',
    'the game at that time, and now',
    'the game now, and yours',
  ]) {
    await page.getByRole('button', { name: pair }).click();
    await expect(page.getByText('That cannot be shown')).toHaveCount(0);
  }
  await page.getByRole('button', { name: 'Fit all again and build' }).click();
  await expect(page.getByText('1 change does not fit the game as it is now.')).toHaveCount(0, { timeout: 60_000 });
  await go(page, 'Put back');
  await expect(page.getByRole('heading', { name: 'Test run of build #1' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText('cabin from zz-my-core.hold')).toBeVisible();
});

test('two mods that change the same are ordered; what is one’s own is shared, and the game’s is not', async ({
  page,
}) => {
  const files: string[] = [];
  const maker = await unlockedGame(page, 'mods-made');
  for (const [name, colour] of [
    ['Blue cabins', '#2060c0'],
    ['Red cabins', '#c02040'],
  ] as const) {
    await go(page, 'Change');
    await repaint(page, LIVERY, colour);
    await go(page, 'Put back');
    await page.getByRole('button', { name: 'Share as a mod file…' }).click();
    await page.getByRole('textbox', { name: 'Name' }).fill(name);
    await page.getByTestId('mod-picture').setInputFiles({
      name: 'shot.png',
      mimeType: 'image/png',
      buffer: await painted(colour),
    });
    await expect(page.getByRole('button', { name: 'Another picture…' })).toBeVisible();
    await page.getByRole('button', { name: 'Make it' }).click();
    await expect(page.getByRole('list', { name: 'What is in the mod file' })).toContainText('whole: it is your own');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Download' }).click(),
    ]);
    expect(download.suggestedFilename()).toBe(`${name}.zip`);
    files.push(join(GAMES, `${name}.zip`));
    await download.saveAs(files.at(-1)!);
    await page.getByRole('button', { name: 'Close' }).click();
  }
  expect(maker.id).toBeGreaterThan(0);

  await unlockedGame(page, 'mods-used');
  await go(page, 'Put back');
  await page
    .getByTestId('mod-file')
    .setInputFiles({ name: 'notes.zip', mimeType: 'application/zip', buffer: Buffer.from('no ZIP at all') });
  await expect(alerts(page)).toContainText('his is no ZIP');
  const mods = page.getByRole('list', { name: 'Mods by others' });
  for (const [i, file] of files.entries()) {
    await page.getByTestId('mod-file').setInputFiles({
      name: `${i}.zip`,
      mimeType: 'application/zip',
      buffer: readFileSync(file),
    });
    await expect(mods.getByRole('listitem')).toHaveCount(i + 1);
  }
  await expect(page.getByText('1 entry is changed by several.')).toBeVisible();
  await expect(alerts(page)).toContainText('Blue cabins, Red cabins; Red cabins wins.');
  await page.getByRole('button', { name: 'Blue cabins later' }).click();
  await expect(alerts(page)).toContainText('Red cabins, Blue cabins; Blue cabins wins.');
  await build(page, 1);
  await expect(page.getByText('of Blue cabins')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Blue cabins is on' }).uncheck();
  await expect(page.getByText('1 entry is changed by several.')).toHaveCount(0);
  await build(page, 2);
  await expect(page.getByText('of Red cabins')).toBeVisible();
  // The first one can be made once more, as it was.
  await page.getByRole('button', { name: /^Build #1/ }).click();
  await page.getByRole('button', { name: 'Build it again' }).click();
  await expect(page.getByText('Build #3')).toBeVisible({ timeout: 60_000 });
});
