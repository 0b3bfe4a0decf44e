/** The workbench, as someone describes a format no one knew: hints, faults at their line, the proof, and the scan that follows. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { go, makeGame, openGame, unlockedGame } from './support';

const RECIPE = `recipe: quill-box
title: Quill box
revision: 1
numbers: big
match: { at: 0, bytes: QUIL }
shapes:
  header:
    - { field: magic, as: ascii(4), must: QUIL }
    - { field: rows, as: u32, is: count(entries) }
  row:
    - { field: name, as: 'text(16, utf-8)', is: entry.path }
    - { field: from, as: u32, is: entry.at }
    - { field: size, as: u32, is: entry.size }
regions:
  - { region: head, at: 0, holds: header }
  - { region: index, at: 8, holds: 'row[head.rows]' }
  - { region: data, holds: entries }
presents: archive
entries:
  each: row in index
  path: row.name
  at: row.from
  stored: row.size
`;

/** Three letters in a box: big-endian, the table in front. */
function quillBox(): Buffer {
  const bodies = ['first letter', 'second, longer letter', 'third'].map((text) => Buffer.from(text));
  const table = Buffer.alloc(8 + 24 * bodies.length);
  table.write('QUIL');
  table.writeUInt32BE(bodies.length, 4);
  let at = table.length;
  bodies.forEach((body, i) => {
    table.write(`letters/${i}.txt`, 8 + 24 * i);
    table.writeUInt32BE(at, 24 + 24 * i);
    table.writeUInt32BE(body.length, 28 + 24 * i);
    at += body.length;
  });
  return Buffer.concat([table, ...bodies]);
}

// A try reads, proves and rebuilds in a thread of its own; a busy machine takes its time.
test.describe.configure({ timeout: 240_000 });
const expectSoon = expect.configure({ timeout: 45_000 });

async function bringIn(page: Page, text: string): Promise<void> {
  const file = { name: 'quill.yaml', mimeType: 'application/yaml', buffer: Buffer.from(text) };
  await page.getByLabel('Recipe file').setInputFiles(file);
}

test('the recipe of an open archive: proof, bytes and fields lead to one another, a new revision is compared', async ({
  page,
}) => {
  await unlockedGame(page, 'bench', { proven: true });
  await page.getByRole('link', { name: 'Recipes' }).click();
  const panel = page.getByRole('complementary', { name: 'Proof and hints' });
  for (const line of [
    '319 entries',
    'Every byte explained',
    'All 2,237 computed fields agree',
    'identical',
    'all read back',
    '7 of 7 edits done and read back',
  ])
    await expectSoon(panel).toContainText(line);

  const parsed = page.getByRole('region', { name: 'What the bytes are' });
  await parsed.getByRole('button', { name: /^count/ }).click();
  await expect(page.locator('.cm-activeLine')).toContainText('field: count');
  await page.locator('[data-offset="16"]').first().click();
  await expect(parsed.getByRole('button', { name: /^indexAt/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.locator('.cm-activeLine')).toContainText('field: indexAt');

  // A formula that is wrong: the proof names its field, with both values, and leads to its line.
  const editor = page.getByRole('textbox', { name: 'Text of the recipe' });
  await editor.getByText('count(entries)').click();
  await page.keyboard.press('End');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.type(' + 1');
  await expectSoon(panel).toContainText('2,236 of 2,237 computed fields agree');
  await expectSoon(panel).toContainText(/count.*320.*319|count.*319.*320/);
  // What is typed slowly is more than one step.
  await expect(async () => {
    const isThere = async () => ((await editor.textContent()) ?? '').includes('count(entries) +');
    if (await isThere()) await page.keyboard.press('Control+z');
    expect(await isThere()).toBe(false);
  }).toPass();
  await expectSoon(panel).toContainText('All 2,237 computed fields agree');

  // A comment makes a new revision; the two are compared.
  await page.keyboard.press('Control+Home');
  await page.keyboard.type('# Looked at again.\n');
  await page.getByRole('button', { name: 'Compare' }).click();
  await expect(page.getByRole('dialog')).toContainText('Looked at again');
  await page.keyboard.press('Escape');
  const shipped = readFileSync(join(__dirname, '../../recipes/hold-archive.yaml'), 'utf8');
  const next = Number(/^revision: (\d+)/m.exec(shipped)![1]) + 1;
  await panel.getByRole('button', { name: `Save revision ${next}` }).click();
  await expect(page.getByRole('combobox', { name: 'Recipe' })).toContainText(`revision ${next}, yours`);
});

test('a file nobody knew: hints, a recipe brought in, tried on all, kept, and found by the next scan', async ({
  page,
}) => {
  const folder = makeGame('quill');
  writeFileSync(join(folder, 'letters.quill'), quillBox());
  const id = await openGame(page, folder);
  await page.goto(`/games/${id}/recipes`);
  await page.getByRole('combobox', { name: 'Sample file' }).click();
  await page.getByRole('option', { name: /letters\.quill/ }).click();
  await page.getByRole('button', { name: 'Write a new one' }).click();
  const panel = page.getByRole('complementary', { name: 'Proof and hints' });
  const mark = panel.getByText('the file begins with “QUIL”').locator('..');
  await mark.getByRole('button', { name: /^Write 2 lines/ }).click();
  const editor = page.getByRole('textbox', { name: 'Text of the recipe' });
  await expect(editor).toContainText('match: { at: 0, bytes: QUIL }');
  await expect(editor).toContainText('field: magic, as: ascii(4), must: QUIL');

  // A word that is none: told at its line, with what is there instead; nothing can be kept.
  await bringIn(page, RECIPE.replace('entry.size }', 'entry.sise }'));
  await expectSoon(panel).toContainText('sise');
  await expect(page.locator('.cm-lint-marker-error')).toBeVisible();
  await expect(panel.getByRole('button', { name: 'Save' })).toBeDisabled();

  // A number read the wrong way round: the fault says where in the file.
  await bringIn(page, RECIPE.replace('numbers: big', 'numbers: little'));
  await expectSoon(panel).toContainText(/0x|offset|line/);
  await expectSoon(panel).not.toContainText('Every byte explained');

  await bringIn(page, RECIPE);
  await expectSoon(panel).toContainText('Every byte explained');
  await expectSoon(panel).toContainText('Rebuilt with 3 entries changed: all read back');
  await panel.getByRole('button', { name: 'Try on all' }).click();
  await expect(page.getByRole('dialog')).toContainText(/letters\.quill/);
  await expect(page.getByRole('dialog')).toContainText(/3 entries/);
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('combobox', { name: 'Recipe' })).toContainText('Quill box · revision 1, yours');

  await go(page, 'Open');
  await page.getByRole('button', { name: 'Scan the folder again' }).click();
  await expect(page.getByTestId('archive letters.quill')).toContainText('3 entries');
  await expect(page.getByRole('list', { name: 'Proof of letters.quill' })).toContainText('3 of 3 changed and back');
});
