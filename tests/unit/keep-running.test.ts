/** The start command keeps what it started running, and knows of another start in the same home. */
import { execFile, execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';

const KEEP = join(__dirname, '../../scripts/bootstrap/keep.mjs');
let home: string;
beforeAll(() => void (home = mkdtempSync(join(tmpdir(), 'zero-latch-keep-'))));
afterAll(() => rmSync(home, { recursive: true }));

/** Runs lines with the module's exports, in a process of its own: it is a module, which these tests cannot load. */
const run = (lines: string): string =>
  execFileSync(process.execPath, ['--input-type=module', '-e', `import * as keep from '${KEEP}';\n${lines}`], {
    encoding: 'utf8',
  });

test('what ends now and then is started again however long it goes on, what keeps ending is given up', () => {
  // Each runs for 30 ms; of those within the last 20 ms there is never more than one.
  const now_and_then = run(`
    let begun = 0;
    const begin = async () => ({ ended: new Promise((end) => setTimeout(end, 30)), n: ++begun });
    const stopped = () => begun >= 12;
    await keep.keepRunning('worker', await begin(), begin, { stopped, within: 20 });
    console.log('begun', begun);`);
  expect(now_and_then).toMatch(/begun 12$/m);
  const always = run(`
    let begun = 0;
    const begin = async () => ({ ended: Promise.resolve(), n: ++begun });
    await keep.keepRunning('worker', await begin(), begin);
    console.log('begun', begun);`);
  expect(always).toMatch(/begun 6$/m);
});

test('what has gone is mended, once at a time', () => {
  const said = run(`
    let isThere = true, mended = 0;
    setTimeout(() => (isThere = false), 20);
    const mend = () => new Promise((done) => setTimeout(() => { mended++; isThere = true; done(); }, 60));
    const stop = keep.lookAfter('database', () => isThere, mend, { every: 10 });
    setTimeout(() => { stop(); console.log('mended', mended); }, 250);`);
  expect(said).toMatch(/The database ended; starting it again/);
  expect(said).toMatch(/mended 1$/m);
});

test('a second start in the same home is told where the first one runs, and a killed one is taken over from', () => {
  const turn = `const turn = keep.takeTurn(${JSON.stringify(home)});`;
  const file = join(home, 'running.json');
  expect(run(`${turn} turn.say('http://127.0.0.1:1'); console.log(turn.address);`)).toMatch(/undefined/);
  // Its process has ended without letting go.
  expect(run(`${turn} turn.say('http://127.0.0.1:2'); console.log(turn.address); turn.letGo();`)).toMatch(/undefined/);
  expect(existsSync(file)).toBe(false);

  const first = spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)', 'bootstrap.mjs']);
  try {
    writeFileSync(file, JSON.stringify({ pid: first.pid, address: 'http://127.0.0.1:3' }));
    expect(run(`${turn} console.log(turn.address);`)).toMatch(/http:\/\/127\.0\.0\.1:3/);
    writeFileSync(file, JSON.stringify({ pid: first.pid }));
    expect(() => run(turn)).toThrow(/is being started here already, by process/);
    expect(readFileSync(file, 'utf8')).toContain(String(first.pid));
  } finally {
    first.kill();
  }
});

test('of many starts at once, beside what a killed one left, one gets the turn', async () => {
  const ours = mkdtempSync(join(tmpdir(), 'zero-latch-turn-'));
  try {
    // No process has this number: it is above the highest that is given.
    writeFileSync(join(ours, 'running.json'), JSON.stringify({ pid: 4_194_305 }));
    // All wait for the same moment; the one that gets the turn keeps it until the others have ended.
    const at = Date.now() + 1_500;
    const lines = `import { takeTurn } from '${KEEP}';
      while (Date.now() < ${at});
      let got = 'refused';
      try { got = takeTurn(${JSON.stringify(ours)}).address === undefined ? 'turn' : 'address'; } catch {}
      console.log(got);
      setTimeout(() => {}, 1500);`;
    const starts = Array.from({ length: 12 }, () =>
      // The name by which a start is known.
      promisify(execFile)(process.execPath, ['--input-type=module', '-e', lines, 'bootstrap.mjs']),
    );
    const said = (await Promise.all(starts)).map(({ stdout }) => stdout.trim());
    expect(said.filter((one) => one === 'turn')).toHaveLength(1);
    expect(said.filter((one) => one === 'refused')).toHaveLength(11);
    expect(readdirSync(ours)).toEqual(['running.json']);
  } finally {
    rmSync(ours, { recursive: true });
  }
});
