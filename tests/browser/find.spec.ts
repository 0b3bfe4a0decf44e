/** Find, by hand and by keyboard: choosing, labelling, comparing, looking inside, what belongs together, seen from above. */
import { expect, test } from '@playwright/test';
import { unlockedGame } from './support';

test('a modder finds the one thing among many, without a mouse', async ({ page }) => {
  test.setTimeout(300_000);
  const { id } = await unlockedGame(page, 'finding');
  const list = page.getByRole('listbox', { name: 'Entries' });
  const status = page.getByRole('status').filter({ hasText: /entr/ });
  const inspector = page.getByRole('complementary', { name: 'The selected entry' });
  const search = page.getByRole('combobox', { name: 'Search' });

  await test.step('the search line offers its words, and Enter takes one', async () => {
    await page.goto(`/games/${id}/find`);
    await search.focus();
    await page.keyboard.type('ki');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await expect(search).toHaveValue('kind:');
    await page.keyboard.type('sou');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await expect(search).toHaveValue('kind:sound ');
    await page.keyboard.type('tannoy/');
    await expect(status).toContainText('32 entries');
    await expect(page.getByRole('option', { name: 'tannoy/call_09.wav' })).toContainText(/\d\.\d s/);
  });

  await test.step('entries are labelled while walking, and found by their labels', async () => {
    await page.keyboard.press('Escape');
    await search.fill('tannoy/call_');
    await expect(status).toContainText('24 entries');
    await list.focus();
    for (const text of ['doors closing', 'crane']) {
      await page.keyboard.press(text === 'crane' ? 'ArrowRight' : 'Home');
      await page.keyboard.press('l');
      await expect(inspector.getByRole('textbox', { name: 'Label' })).toBeFocused();
      await page.keyboard.type(text);
      await page.keyboard.press('Enter');
      await expect(list).toBeFocused();
    }
    await expect(page.getByRole('option', { name: 'tannoy/call_10.wav' })).toContainText('crane');
    await search.fill('label:doors');
    await expect(status).toContainText('1 entry');
    await page.getByRole('button', { name: 'Save this search' }).click();
    await page.getByRole('textbox', { name: 'Name of the search' }).fill('Doors');
    await page.keyboard.press('Enter');
    await search.fill('');
    await page.getByRole('button', { name: 'Doors', exact: true }).click();
    await expect(status).toContainText('1 entry');
  });

  await test.step('a stretch of the list is chosen with the keyboard and goes into the tray', async () => {
    await page.goto(`/games/${id}/find?view=list&folder=cabins/livery`);
    await list.focus();
    await page.keyboard.press('Home');
    for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowDown');
    await expect(status).toContainText('4 entries chosen of 51');
    await page.getByRole('button', { name: 'Add selection to tray' }).click();
    await expect(page.getByText('The tray holds 4 entries.')).toBeVisible();
    await list.focus();
    await page.keyboard.press('Control+a');
    await expect(status).toContainText('51 entries chosen of 51');
    await page.keyboard.press('Escape');
    await expect(status).not.toContainText('chosen');
  });

  await test.step('columns are chosen and kept; the order stands in the address', async () => {
    await page.getByRole('button', { name: 'Choose columns' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Archive' }).click();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Sort by archive' }).click();
    await page.reload();
    await expect(page.getByRole('button', { name: 'Sort by archive' })).toContainText('↑');
    await expect(page.getByRole('option').first()).toContainText('core.hold');
  });

  await test.step('two are compared', async () => {
    await list.focus();
    await page.keyboard.press('Home');
    await page.keyboard.press('Shift+ArrowDown');
    await page.getByRole('button', { name: 'Compare the two' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('Both have the same number of pixels.');
    await dialog.getByRole('button', { name: 'As bytes' }).click();
    await expect(dialog.getByRole('region', { name: 'Bytes' })).toHaveCount(2);
    await page.keyboard.press('Escape');
  });

  await test.step('a text is found inside entries, and each place shows its bytes', async () => {
    await page.goto(`/games/${id}/find`);
    await page.getByRole('button', { name: 'Look inside…' }).click();
    await page.getByRole('textbox', { name: 'What to look for' }).fill('MIND THE DOORS');
    await page.keyboard.press('Enter');
    const places = page.getByRole('listbox', { name: 'Places' });
    await expect(places.getByRole('option').filter({ hasText: 'captions.txt' }).first()).toContainText(
      'Mind the doors',
    );
    await places.focus();
    await page.keyboard.press('ArrowDown');
    await expect(inspector.getByRole('tab', { name: 'Bytes' })).toHaveAttribute('aria-selected', 'true');
    await expect(inspector.getByRole('region', { name: 'Bytes' })).toContainText('69 6E 64 20 74 68 65');
    const find = inspector.getByRole('textbox', { name: /Place, text or bytes/ });
    await find.fill('zzzz');
    await page.keyboard.press('Enter');
    await expect(inspector.getByRole('alert')).toContainText('Not found');
    // Another search shows its entries, and no longer what was found inside those of the one before.
    await search.fill('captions');
    await expect(list).toBeVisible();
    await expect(status).toContainText('3 entries');
  });

  await test.step('what belongs together is found out and drawn', async () => {
    await page.goto(`/games/${id}/find?search=crane.mesh`);
    await page.getByRole('option', { name: 'models/crane/crane.mesh' }).click();
    await inspector.getByRole('button', { name: 'Scan references' }).click();
    const texture = inspector.getByTitle('models/crane/crane_colour.tex');
    await expect(texture).toBeVisible({ timeout: 60_000 });
    await inspector.getByRole('button', { name: 'Show as a graph' }).click();
    await expect(page.getByRole('img', { name: /References as arrows/ })).toContainText('turn.clip');
    await page.keyboard.press('Escape');
    await texture.click();
    await expect(inspector.getByRole('heading', { name: 'crane_colour.tex' })).toBeVisible();
  });

  await test.step('the game is seen from above, and a click narrows it', async () => {
    await page.goto(`/games/${id}/find?view=overview`);
    const overview = page.getByRole('region', { name: 'Overview' });
    await expect(overview.getByRole('img', { name: /Folders by size/ })).toContainText('tannoy');
    await overview.getByRole('button', { name: /^Sounds/ }).click();
    await expect(search).toHaveValue('kind:sound');
    await expect(overview).toContainText('By packing');
    await expect(overview.getByRole('button', { name: /^Pictures/ })).toHaveCount(0);
  });
});

test('labels come as a table of numbers, and the better way to count is taken', async ({ page }) => {
  const { id } = await unlockedGame(page, 'label-table');
  await page.goto(`/games/${id}/find?folder=weather`);
  await page.getByRole('button', { name: 'Labels…' }).click();
  await page.getByTestId('label-table').setInputFiles({
    name: 'weather.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('number,what\n2,drizzle\n3,gale\n40,nothing\n'),
  });
  const dialog = page.getByRole('dialog');
  const ahead = dialog.getByRole('region', { name: 'The table counts from 1' });
  await expect(ahead).toContainText('wind_01.wavdrizzle');
  const asIs = dialog.getByRole('region', { name: 'Numbers as they are' });
  await expect(asIs).toContainText('rain_02.wavdrizzle');
  await expect(asIs).toContainText('No entry for 40 (line 4)');
  await asIs.getByRole('button', { name: 'Label 2 entries so' }).click();
  await expect(page.getByText('2 entries labelled.')).toBeVisible();
  await expect(page.getByRole('option', { name: 'weather/wind_03.wav' })).toContainText('gale');
});
