/** Station Open from nothing: keys, names, load order, packages, and the next build over it. */
import { cpSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { gameKey } from '../../demo/make-game';
import { alerts, demoAsMade, go, KEY, makeGame, openGame, tryKey } from './support';

test('a whole game: one key pasted, others found, names, order, packages, then another build', async ({ page }) => {
  const folder = makeGame('whole');
  await openGame(page, folder);
  const row = (path: string) => page.getByTestId(`archive ${path}`);
  const nav = page.getByRole('navigation', { name: 'Steps' });

  await test.step('the scan: every archive, its files and the build', async () => {
    await expect(nav.locator('..')).toContainText(/Whole( \d+)? · build 1\.4\.1/);
    await expect(nav).toContainText('15 archives · 6 locked');
    await expect(row('world.idx')).toContainText('222 entries · 222 nameless');
    await expect(row('journal/journal.json')).toContainText('30 entries');
    await expect(row('parcels.set')).toContainText('12 entries');
    await expect(page.getByTestId('unknown valley.lvl')).toContainText('24 pictures, 1 sound, 1 text found inside');
    await expect(page.getByRole('group', { name: 'Names' })).toContainText('0 of 222 are named');
  });

  await test.step('one key is pasted, with its name', async () => {
    await tryKey(page, `content = ${KEY}`);
    await expect(page.getByRole('status').filter({ hasText: 'It opens core.hold, core-spring.hold.' })).toBeVisible();
    await expect(page.getByRole('group', { name: 'Keys' })).toContainText('content an aes-256 key, build 1.4.1');
    await expect(row('core-spring.hold')).toContainText('4 entries · 1 covers another · removes 2');
  });

  await test.step('the others are found in the program', async () => {
    await page.getByRole('button', { name: 'Look for keys in a file…' }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /gondola-post\.bin/ })
      .click();
    const found = page.getByRole('status', { name: 'What the search found' });
    await expect(found).toContainText('for scenes.reel, at 0x1_1A37 as it is', { timeout: 60_000 });
    await expect(found).toContainText('for voices.cue, at 0x4_E1C9 as it is');
    for (const path of ['scenes.reel', 'voices.cue', 'voices.de.cue', 'voices.fr.cue'])
      await expect(row(path).getByRole('img', { name: 'open' })).toBeVisible();
    await expect(nav).toContainText('15 archives');
    await expect(nav).not.toContainText('locked');
    for (const slot of ['voices', 'reel'] as const)
      await expect(page.locator('body')).not.toContainText(gameKey('1.4.1', slot).toString('hex').slice(2, 12));
  });

  await test.step('a name list with nonsense in it, then a pattern, then what the game says itself', async () => {
    const lines = [
      '# names of the world',
      'world/valley/whole.height',
      'world\\slope\\whole.height',
      '',
      '\u0001\u0002',
    ];
    await page.getByTestId('name-list-file').setInputFiles({
      name: 'world-names.txt',
      mimeType: 'text/plain',
      buffer: Buffer.from(lines.join('\r\n')),
    });
    const names = page.getByRole('group', { name: 'Names' });
    await expect(names).toContainText('2 of 222 are named', { timeout: 30_000 });
    await expect(page.getByTestId('names world-names.txt')).toContainText('line 5 was skipped');
    await page.getByRole('button', { name: 'Guess from patterns…' }).click();
    const dialog = page.getByRole('dialog');
    const pattern = dialog.getByRole('textbox', { name: 'Pattern' });
    await pattern.fill('world/valley/tile_{05..00}_{00..05}.png');
    await expect(alerts(page)).toContainText('The numbers go backwards');
    await pattern.fill('world/{words}/tile_{00..05}_{00..05}.{png,height}');
    await dialog.getByRole('textbox', { name: 'Words' }).fill('valley\nslope\nsummit');
    await expect(dialog).toContainText('216 paths, from world/valley/tile_00_00.png');
    await dialog.getByRole('button', { name: 'Try them' }).click();
    await expect(names).toContainText('218 of 222 are named', { timeout: 30_000 });
    await names.getByRole('button', { name: 'Look in the game’s own files' }).click();
    await expect(page.getByTestId('names found in the game')).toContainText(/218 names of [\d,]+ fit/, {
      timeout: 60_000,
    });
    await expect(row('world.idx')).toContainText('4 nameless');
    // What a list that is taken away named is in the game's own files as well.
    await names.getByRole('button', { name: 'Remove world-names.txt' }).click();
    await expect(page.getByTestId('names world-names.txt')).toHaveCount(0, { timeout: 30_000 });
    await expect(names).toContainText('218 of 222 are named', { timeout: 30_000 });
  });

  await test.step('the load order by hand: the patch before the base covers nothing, and back by the rule', async () => {
    const handle = page.getByRole('button', { name: 'Move core-spring.hold in the load order' });
    await handle.focus();
    await page.keyboard.press('Space');
    // As it is read out to someone who does not see it: a key that comes before is none of the drag's.
    const said = page.locator('[id^="DndLiveRegion"]');
    await expect(said).toContainText('moved over droppable area core-spring.hold');
    await page.keyboard.press('ArrowUp');
    await expect(said).toContainText('moved over droppable area core.hold');
    await page.keyboard.press('Space');
    await expect(row('core.hold')).toContainText('319 entries · 3 cover others');
    await expect(page.getByText('Ordered by name, then by hand.')).toBeVisible();
    await page.getByRole('button', { name: 'Change the rule…' }).click();
    await page.getByRole('button', { name: 'Use it and forget the order by hand' }).click();
    await expect(row('core-spring.hold')).toContainText('1 covers another · removes 2');
  });

  await test.step('a package in the set opens, with its picture, and one archive can be seen alone', async () => {
    await row('parcels.set').getByRole('button', { name: '12 packages' }).click();
    const inside = page.getByRole('list', { name: 'Inside parcels.set' });
    await expect(inside.getByRole('listitem')).toHaveCount(12);
    const picture = inside.getByRole('listitem').first().locator('img');
    await expect.poll(() => picture.evaluate((one: HTMLImageElement) => one.naturalWidth)).toBeGreaterThan(0);
    await inside.getByRole('listitem').first().getByRole('link').click();
    await expect(page.getByRole('button', { name: /^Only parcels\.set\/.*: show the whole game$/ })).toBeVisible();
    await page.getByRole('option').first().click();
    await expect(page.getByRole('complementary', { name: 'The selected entry' })).toContainText('Comes from');
    await go(page, 'Open');
    await row('core-spring.hold').getByRole('link', { name: 'Show only this archive' }).click();
    await page.getByRole('button', { name: 'List' }).click();
    await expect(page.getByRole('option').filter({ hasText: 'letter_02.txt' })).toContainText('removes it');
  });

  await test.step('build 1.4.2 comes over it: what changed, the old key fits no more, the new one shows what is new', async () => {
    await go(page, 'Open');
    cpSync(demoAsMade('1.4.2'), folder, { recursive: true });
    await page.getByRole('button', { name: 'Scan the folder again' }).click();
    const news = page.getByRole('status', { name: 'What has changed' });
    await expect(news).toContainText('Build 1.4.2 replaces build 1.4.1', { timeout: 30_000 });
    await expect(news).toContainText(/changed:.*core\.hold/);
    await expect(row('core.hold')).toContainText('Locked');
    await tryKey(page, gameKey('1.4.2', 'content').toString('hex'));
    await expect(page.getByRole('group', { name: 'News of core.hold' })).toContainText('Since build 1.4.1: 3 changed', {
      timeout: 30_000,
    });
    await page.getByRole('group', { name: 'News of core.hold' }).getByRole('button', { name: 'Which?' }).click();
    await expect(row('core.hold')).toContainText('stations/station_03/timetable.json');
    await expect(nav).not.toContainText('locked');
  });
});

test('what is wrong is told, and the rest still opens', async ({ page }) => {
  const folder = makeGame('half');
  rmSync(join(folder, 'voices.wax'));
  await openGame(page, folder);
  const row = page.getByTestId('archive voices.cue');
  await tryKey(page, gameKey('1.4.1', 'voices').toString('hex'));
  await expect(
    page.getByRole('status').filter({ hasText: 'It opens voices.cue, voices.de.cue, voices.fr.cue.' }),
  ).toBeVisible();
  await expect(row).toContainText('voices.cue needs voices.wax');
});

test('a game is forgotten with its work, brought back, and deleted for good', async ({ page }) => {
  const folder = makeGame('forgotten');
  await openGame(page, folder);
  await tryKey(page, KEY);
  await expect(page.getByTestId('archive core.hold').getByRole('img', { name: 'open' })).toBeVisible();
  await page.goto('/');
  const card = page.getByTestId('game Forgotten');
  await card.getByRole('button', { name: 'Forget' }).click();
  await expect(page.getByRole('heading', { name: 'Forgotten games' })).toBeVisible();
  await card.getByRole('button', { name: 'Bring back' }).click();
  await card.getByRole('button', { name: 'Open' }).click();
  await expect(page.getByTestId('archive core.hold').getByRole('img', { name: 'open' })).toBeVisible();
  await page.goto('/');
  await card.getByRole('button', { name: 'Forget' }).click();
  await card.getByRole('button', { name: 'Delete…' }).click();
  await card.getByRole('button', { name: 'Delete for good' }).click();
  await expect(card).toHaveCount(0);
});
