/** Cues: heard, replaced, compared, made as loud, brought to the other languages, and heard in the game. */
import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { gameKey } from '../../demo/make-game';
import { GAMES, go, stillLook, tryKey, unlockedGame } from './support';

test('a cue is replaced, compared by ear, and put into every language', async ({ page }) => {
  test.setTimeout(240_000);
  const { id } = await unlockedGame(page, 'cues');
  await tryKey(page, gameKey('1.4.1', 'voices').toString('hex'));
  await expect(page.getByTestId('archive voices.cue')).toContainText('28 entries', { timeout: 60_000 });
  const files = join(GAMES, 'cues-edited');
  mkdirSync(files, { recursive: true });
  const given = join(files, 'cue_0115.ogg');
  const tone = ['-f', 'lavfi', '-i', 'sine=440:duration=2:sample_rate=44100', '-af', 'volume=0.05'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...tone, '-c:a', 'libvorbis', given]);

  await page.goto(`/games/${id}/find?search=voices/en/cue_0115`);
  await page.getByRole('option', { name: 'voices/en/cue_0115.adpcm', exact: true }).click();
  const inspector = page.getByRole('complementary', { name: 'The selected entry' });
  await expect(inspector).toContainText('IMA ADPCM, mono, 22,050 Hz');
  await expect(inspector.getByRole('img', { name: /Waveform/ })).toHaveAttribute('data-ready', 'true');
  await page.getByTestId('replace-file').setInputFiles(given);
  await expect(page.getByText('voices/en/cue_0115.adpcm is changed.')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Look at it' }).click();

  const facts = page.getByRole('complementary', { name: 'What the game expects back' });
  await expect(facts).toContainText('converted from OGG to 22,050 Hz mono');
  await page.getByRole('button', { name: 'Play both, switching' }).click();
  await expect(page.getByText(/equally loud: “Before” is played \d/)).toBeVisible();
  await page.getByRole('button', { name: 'Hear before' }).click();
  await page.getByRole('button', { name: 'Stop', exact: true }).click();
  await facts.getByRole('button', { name: 'as loud as the original' }).click();
  await expect(facts).toContainText(/made as loud as the original: \+\d/, { timeout: 30_000 });
  await expect(facts).toContainText('not changed');
  await facts.getByRole('button', { name: 'Replace it there too' }).click();
  const list = page.getByRole('list', { name: 'What is changed' });
  await expect(list.getByText('from cue_0115.ogg, in every language')).toHaveCount(2, { timeout: 30_000 });
  // Sounds that are still decoded cannot be played yet.
  for (const play of await page.getByRole('button', { name: 'Play', exact: true }).all())
    await expect(play).toBeEnabled();
  // A button that has just become one is on its way to its colour, and so is one that is drawn again a moment later.
  await page.waitForTimeout(500);
  await stillLook(page);
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);

  await go(page, 'Put back');
  await page.getByRole('radio', { name: /Rebuild/ }).check();
  await page.getByRole('button', { name: 'Build and test' }).click();
  const shown = page.getByRole('list', { name: 'Your changes in the game' });
  await expect(shown.getByRole('listitem')).toHaveCount(3, { timeout: 60_000 });
  await shown.getByRole('button', { name: 'Play voices/de/cue_0115.adpcm as in the game' }).click();
});
