/** Loads a game folder with builds laid over it, strictly, and draws up the title scene. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { checkContent, readCaptions } from './content-rules';
import { readHold, type Hold, type HoldRow } from './hold-reader';
import { LoadStop, type Finding, type LoadedFile, type Report, type Scene, type Step } from './report';

const PROGRAM = 'gondola-post.bin';

interface Mounted {
  readonly hold: Hold;
  readonly row: HoldRow;
}

/** @param folders the game's own first; a file in a later folder stands in for the one of that name in an earlier */
export function loadGame(folders: readonly string[]): Report {
  const steps: Step[] = [];
  const findings: Finding[] = [];
  const files: LoadedFile[] = [];
  let scene: Scene | undefined;
  const step = <T>(what: string, work: () => { count: number; result: T }): T => {
    const from = performance.now();
    const { count, result } = work();
    steps.push({ what, count, milliseconds: Math.round(performance.now() - from) });
    return result;
  };
  try {
    const key = step('Read the program', () => ({ count: 1, result: programKey(folders) }));
    const holds = step('Mounted archives', () => {
      const result = mountOrder(folders).map(({ path, folder, file }) => {
        const bytes = readFileSync(path);
        const hold = readHold(file, bytes, key);
        files.push({ file, folder, entries: hold.rows.length, bytes: bytes.length });
        return hold;
      });
      return { count: result.length, result };
    });
    const entries = step('Laid entries over each other', () => {
      const result = new Map<string, Mounted>();
      for (const hold of holds) for (const row of hold.rows) result.set(row.path, { hold, row });
      return { count: result.size, result };
    });
    step('Unpacked and checked entries', () => {
      let count = 0;
      for (const hold of holds) {
        for (const row of hold.rows) {
          checkContent(hold.file, row.path, hold.bytes(row));
          count++;
        }
      }
      return { count, result: undefined };
    });
    scene = step('Drew the title scene', () => ({ count: 1, result: drawScene(entries) }));
  } catch (error) {
    if (!(error instanceof LoadStop)) throw error;
    findings.push({ severity: 'stop', ...error.finding });
  }
  return { started: findings.every((finding) => finding.severity !== 'stop'), steps, findings, files, scene };
}

/** The last folder that has a file wins. */
function find(folders: readonly string[], file: string): { path: string; folder: number } | undefined {
  for (let folder = folders.length - 1; folder >= 0; folder--) {
    const path = join(folders[folder]!, file);
    if (existsSync(path)) return { path, folder };
  }
  return undefined;
}

function programKey(folders: readonly string[]): Buffer {
  const found = find(folders, PROGRAM);
  if (found === undefined)
    throw new LoadStop({
      code: 'PROGRAM',
      file: PROGRAM,
      offset: 0,
      rule: 'The program is in the game folder.',
      found: 'nothing',
    });
  const program = readFileSync(found.path);
  const at = program.length < 64 ? NaN : Number(program.readBigUInt64LE(program.length - 8));
  if (program.toString('latin1', 0, 6) !== 'GPEXEC' || !(at + 32 <= program.length)) {
    throw new LoadStop({
      code: 'PROGRAM',
      file: PROGRAM,
      offset: 0,
      rule: 'The program is whole.',
      found: program.toString('latin1', 0, 6),
    });
  }
  return program.subarray(at, at + 32);
}

/** Archives load in the order of their names; later ones win. */
function mountOrder(folders: readonly string[]): { path: string; folder: number; file: string }[] {
  const names = new Set(folders.flatMap((folder) => readdirSync(folder).filter((name) => name.endsWith('.hold'))));
  const order = [...names].sort().map((file) => ({ file, ...find(folders, file)! }));
  if (!names.has('core.hold'))
    throw new LoadStop({
      code: 'CORE',
      file: 'core.hold',
      offset: 0,
      rule: 'core.hold is in the game folder.',
      found: 'nothing',
    });
  return order;
}

function drawScene(entries: ReadonlyMap<string, Mounted>): Scene {
  const bytesOf = (path: string) => {
    const mounted = entries.get(path);
    if (mounted === undefined)
      throw new LoadStop({
        code: 'SCENE',
        file: 'scenes/title.json',
        offset: 0,
        rule: 'What the scene names is there.',
        found: path,
      });
    return { path, from: mounted.hold.file, bytes: mounted.hold.bytes(mounted.row) };
  };
  const title = bytesOf('scenes/title.json');
  const plan = JSON.parse(title.bytes.toString('utf8')) as Record<string, unknown>;
  const named = (key: string): string => {
    const value = plan[key];
    if (typeof value === 'string') return value;
    throw new LoadStop({
      code: 'SCENE',
      file: title.from,
      entry: title.path,
      offset: 0,
      rule: 'The scene names livery, caption, tannoy and language.',
      found: `no ${key}`,
    });
  };
  const language = named('language');
  const words = bytesOf(`words/${language}/captions.txt`);
  const caption = readCaptions(words.from, words.path, words.bytes).get(named('caption'));
  if (caption === undefined) {
    throw new LoadStop({
      code: 'WORDS-MISSING',
      file: words.from,
      entry: words.path,
      offset: 0,
      rule: 'The caption of the scene is translated.',
      found: named('caption'),
    });
  }
  return { livery: bytesOf(named('livery')), tannoy: bytesOf(named('tannoy')), caption, language };
}
