/** What goes wrong: each a clear word in the page, nothing lost. */
import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { Client } from 'pg';
import {
  alerts,
  bringFor,
  fillWhereTo,
  GAMES,
  go,
  KEY,
  makeGame,
  openGame,
  stillLook,
  tryKey,
  unlockedGame,
} from './support';

test('a folder outside of the allowed roots, and a link that leads there, are refused', async ({ page }) => {
  const link = join(GAMES, 'leads-out');
  mkdirSync(GAMES, { recursive: true });
  rmSync(link, { force: true });
  symlinkSync('/etc', link);
  for (const folder of ['/etc', link, join(GAMES, '../..')]) {
    const answer = await page.request.post('/api/games', { data: { folder } });
    expect(answer.status()).toBe(403);
    expect((await answer.json()).fault.sentence).toContain('outside of what this server may touch');
  }
  rmSync(link);
});

test('another host, another origin and another site are refused', async ({ request, baseURL }) => {
  const { port } = new URL(baseURL!);
  const foreign: Record<string, string>[] = [
    { host: 'evil.example' },
    { origin: 'http://evil.example' },
    { origin: 'null' },
    { 'sec-fetch-site': 'cross-site' },
    { 'sec-fetch-site': 'same-site' },
  ];
  for (const headers of foreign) {
    expect((await request.get('/api/games', { headers })).status()).toBe(403);
    expect((await request.post('/api/games', { headers, data: { folder: GAMES } })).status()).toBe(403);
  }
  expect((await request.get('/api/games', { headers: { origin: `http://127.0.0.1:${port}` } })).status()).toBe(200);
});

test('names that would turn their direction or break their line stand with their codes', async ({ page }) => {
  const folder = join(GAMES, 'odd-names');
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const names = JSON.stringify(['a/gnp.exe\u202egpj.txt', 'a/line\nbreak.txt', 'a/\u001b[31mred.txt']);
  const script = `import zipfile,json,sys
with zipfile.ZipFile(sys.argv[1], 'w') as z:
    for n in json.loads(sys.argv[2]): z.writestr(n, b'a line')`;
  execFileSync('python3', ['-c', script, join(folder, 'data.zip'), names]);
  const { game } = (await (await page.request.post('/api/games', { data: { folder } })).json()) as {
    game: { id: number };
  };
  await page.goto(`/games/${game.id}/find`);
  for (const shown of ['gnp.exe\\u{202E}gpj.txt', 'line\\u{A}break.txt', '\\u{1B}[31mred.txt'])
    await expect(page.getByText(shown).first()).toBeVisible({ timeout: 30_000 });
  expect(await page.locator('body').innerText()).not.toMatch(/[\u202e\u001b]/u);
});

test('a truncated archive is shown damaged or refused, and mends with a fresh copy', async ({ page }) => {
  const folder = makeGame('truncated');
  const whole = readFileSync(join(folder, 'core.hold'));
  truncateSync(join(folder, 'core.hold'), 2_000_000);
  await page.goto('/');
  const { game } = (await (await page.request.post('/api/games', { data: { folder } })).json()) as {
    game: { id: number };
  };
  await page.goto(`/games/${game.id}/open`);
  await expect(alerts(page)).toContainText(/core\.hold.*region index.*The file may be cut off/);
  writeFileSync(join(folder, 'core.hold'), whole);
  await page.getByRole('button', { name: 'Scan the folder again' }).click();
  await expect(page.getByTestId('archive core.hold')).toContainText('Locked');
});

test('a flipped byte in an entry is told where it is looked at, and the rest stays open', async ({ page }) => {
  const folder = makeGame('flipped');
  const bytes = readFileSync(join(folder, 'core.hold'));
  bytes[64 + 200] = bytes[64 + 200]! ^ 0xff;
  writeFileSync(join(folder, 'core.hold'), bytes);
  await openGame(page, folder);
  await tryKey(page, KEY);
  const proof = page.getByRole('list', { name: 'Proof of core.hold' });
  await expect(proof).toContainText('2,236 of 2,237 formulas');
  await expect(alerts(page)).toContainText('row[0].crc');
  await go(page, 'Find');
  await page.getByRole('combobox', { name: 'Search' }).fill('frame_01');
  await page.getByRole('option', { name: 'cabins/frames/frame_01.png' }).click();
  await expect(alerts(page)).toContainText(/checksum does not agree.*frame_01\.png/);
  await page.getByRole('combobox', { name: 'Search' }).fill('frame_02');
  await page.getByRole('option', { name: 'cabins/frames/frame_02.png' }).click();
  await expect(page.getByRole('complementary', { name: 'The selected entry' })).toContainText('256 × 256');
});

test('an archive that is deleted while it is in use is told, and comes back with the file', async ({ page }) => {
  const { id, folder } = await unlockedGame(page, 'deleted');
  renameSync(join(folder, 'core.hold'), join(GAMES, 'core.away'));
  await page.request.post(`/api/games/${id}/tray`, { data: { add: ['scenes/title.json'] } });
  await page.goto(`/games/${id}/take-out`);
  await fillWhereTo(page, join(GAMES, 'never'));
  await page.getByRole('button', { name: 'Take out', exact: true }).click();
  await expect(page.getByTestId('run take-out').first()).toContainText(/The file is not there: core\.hold/i);
  renameSync(join(GAMES, 'core.away'), join(folder, 'core.hold'));
  await page.getByRole('button', { name: 'Take out', exact: true }).click();
  await expect(page.getByTestId('run take-out').first()).toContainText('1 file, ');
});

test('a game updated under an installed build is not overwritten', async ({ page }) => {
  const { id, folder } = await unlockedGame(page, 'updated');
  const scene = {
    livery: 'cabins/livery/cabin_01_blue.png',
    caption: 'tannoy.wind',
    tannoy: 'tannoy/gate_open.wav',
    language: 'de',
  };
  await bringFor(page, id, 'scenes/title.json', JSON.stringify(scene));
  await page.goto(`/games/${id}/put-back`);
  await page.getByRole('radio', { name: /Rebuild/ }).check();
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByRole('img', { name: /Langsame Fahrt wegen Wind/ })).toBeVisible({ timeout: 60_000 });
  // A later build that fails does not leave the older one to be taken for it.
  renameSync(join(folder, 'core.hold'), join(GAMES, 'updated.away'));
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByText('The last build was not finished.')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('button', { name: 'Put the older build #1 in' })).toBeVisible();
  renameSync(join(GAMES, 'updated.away'), join(folder, 'core.hold'));
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(page.getByRole('heading', { name: 'Test run of build #2' })).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Put into the game folder' }).click();
  await expect(page.getByRole('button', { name: 'Take it out again' })).toBeVisible();
  const updated = readFileSync(join(folder, 'gondola-post.bin'));
  writeFileSync(join(folder, 'core.hold'), updated);
  await page.getByRole('button', { name: 'Take it out again' }).click();
  await expect(alerts(page).filter({ hasText: 'he file is no longer the one that was put in' })).toBeVisible();
  expect(Buffer.compare(readFileSync(join(folder, 'core.hold')), updated)).toBe(0);
  await expect(alerts(page).filter({ hasText: 'core.hold was replaced by something else' })).toBeVisible();
  await page.getByRole('button', { name: 'Take out the rest, and leave it as it is' }).click();
  await expect(page.getByText('Left as something else wrote them: core.hold.')).toBeVisible();
  expect(Buffer.compare(readFileSync(join(folder, 'core.hold')), updated)).toBe(0);
});

test('a build the game would refuse cannot be put in', async ({ page }) => {
  const { id } = await unlockedGame(page, 'refused');
  await bringFor(page, id, 'words/en/captions.txt', 'a line without a key');
  await page.goto(`/games/${id}/put-back`);
  await page.getByRole('button', { name: 'Build and test' }).click();
  await expect(alerts(page)).toContainText('A line is: key = text.', { timeout: 60_000 });
  await expect(page.getByRole('img', { name: 'The loading screen, on which the game stays' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Put into the game folder' })).toBeDisabled();
});

/** When the server of the database was started: another time after a real restart. */
async function databaseStarted(): Promise<string> {
  const client = new Client({ connectionString: process.env.DATABASE_URL });
  await client.connect();
  const { rows } = await client.query<{ at: string }>('select pg_postmaster_start_time()::text as at');
  await client.end();
  return rows[0]!.at;
}

test('the database stops and starts again: nothing is lost, and work goes on', async ({ page }) => {
  const { id } = await unlockedGame(page, 'restarted');
  const restarter = Number(process.env.ZERO_LATCH_RESTARTS_DATABASE);
  test.skip(!restarter, 'the database is not ours to restart');
  await page.goto(`/games/${id}/open`);
  const entries = ((await (await page.request.get(`/api/games/${id}`)).json()) as { entryCount: number }).entryCount;
  expect(entries).toBeGreaterThan(319);
  const started = await databaseStarted();
  process.kill(restarter, 'SIGUSR2');
  const statuses = new Set<number>();
  const until = Date.now() + 30_000;
  let answer = await page.request.get(`/api/games/${id}`);
  // First it is still there, then away, then back.
  for (let away = false; Date.now() < until;) {
    answer = await page.request.get(`/api/games/${id}`);
    statuses.add(answer.status());
    if (answer.status() === 503) expect((await answer.json()).fault.sentence).toContain('Nothing is lost');
    away ||= Date.now() > until - 26_000;
    if (away && answer.status() === 200) break;
    await page.waitForTimeout(200);
  }
  expect([...statuses].every((status) => status === 200 || status === 503)).toBe(true);
  expect((await answer.json()).entryCount).toBe(entries);
  expect(await databaseStarted()).not.toEqual(started);
  await page.getByRole('button', { name: 'Scan the folder again' }).click();
  await page.goto(`/games/${id}/runs`);
  await expect(page.getByTestId('run scan').first()).toContainText('done', { timeout: 30_000 });
});

type AxeViolations = Awaited<ReturnType<AxeBuilder['analyze']>>['violations'];

/** What a theme can break; everything else about a page is the same in both. */
const THEME_RULES = ['color-contrast'];

test('every station passes axe, light and dark', async ({ page }) => {
  // Twelve pages, each read twice: the longest test here, and the first to suffer on a busy machine.
  test.slow();
  const { id, folder } = await unlockedGame(page, 'axe');
  copyFileSync(join(folder, 'gondola-post.bin'), join(folder, 'unknown.dat'));
  await page.request.post(`/api/games/${id}/tray`, { data: { addFolder: 'tannoy' } });
  await bringFor(page, id, 'letters/sent/letter_08.txt', 'Dear Ida,\n\nsnow.\n');
  const stations = [
    'open',
    'find?view=list',
    'find?view=overview',
    'find',
    'find?folder=models/crane&view=list',
    'records',
    'take-out',
    'change',
    'words',
    'put-back',
    'runs',
    'recipes',
  ];
  for (const station of stations)
    await test.step(station, async () => {
      await page.emulateMedia({ colorScheme: 'light', reducedMotion: 'reduce' });
      await page.goto(`/games/${id}/${station}`);
      await expect(page.getByRole('main')).not.toBeEmpty();
      await page.waitForLoadState('networkidle', { timeout: 5_000 }).catch(() => {});
      await stillLook(page);
      const light = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']).analyze();
      await page.emulateMedia({ colorScheme: 'dark', reducedMotion: 'reduce' });
      await stillLook(page);
      const dark = await new AxeBuilder({ page }).withRules(THEME_RULES).analyze();
      expect([
        ...describeViolations('light', light.violations),
        ...describeViolations('dark', dark.violations),
      ]).toEqual([]);
    });
});

function describeViolations(scheme: string, violations: AxeViolations): string[] {
  return violations.map(
    ({ id, nodes }) =>
      `${scheme} ${id}: ${nodes
        .map((node) => node.target.join(' '))
        .slice(0, 3)
        .join(' | ')}`,
  );
}

test('the palette reaches entries and stations without a mouse, and the theme changes', async ({ page }) => {
  const { id } = await unlockedGame(page, 'palette');
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill('cabin_09_fir');
  await page.getByRole('option', { name: 'cabins/livery/cabin_09_fir.png' }).waitFor();
  await page.keyboard.press('Enter');
  await page.waitForURL(new RegExp(`/games/${id}/find`));
  await expect(page.getByRole('complementary', { name: 'The selected entry' })).toContainText('cabin_09_fir.png');
  await page.keyboard.press('Alt+3');
  await page.waitForURL(/take-out/);
  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill('Dark theme');
  await page.keyboard.press('Enter');
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await expect(page.getByRole('dialog')).toBeHidden();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog')).toContainText('Find entries, archives and actions');
});
