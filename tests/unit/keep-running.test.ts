/** The start command keeps what it started running, and knows of another start in the same home. */
import { execFileSync, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

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
