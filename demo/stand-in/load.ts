/** Loads a game folder with builds laid over it, strictly, and draws up the title scene. */
import { checkContent, readCaptions } from './content-rules';
import { PARTS } from './further-archives';
import { readHold, type Hold, type HoldRow } from './hold-reader';
import { loadModels } from './models';
import { findFile, mounted, programKeys, type GameFile } from './mount';
import { Showcase } from './showcase';
import { LoadStop, type Film, type Finding, type LoadedFile, type Report, type Scene, type Step } from './report';

/** An entry where it comes from. */
interface Mounted {
  readonly file: string;
  bytes(): Buffer;
}

const inHold = (hold: Hold, row: HoldRow): Mounted => ({ file: hold.file, bytes: () => hold.bytes(row) });

/**
 * @param folders the game's own first; a file in a later folder replaces the one of that name in an earlier
 * @param wanted paths of entries to be shown as they are seen or heard in the game
 */
export function loadGame(folders: readonly string[], wanted: readonly string[] = []): Report {
  const steps: Step[] = [];
  const findings: Finding[] = [];
  const notes = new Map<string, { count: number; last: Omit<Finding, 'severity'> }>();
  const files: LoadedFile[] = [];
  let scene: Scene | undefined;
  let film: Film | undefined;
  // Of several the last holds.
  const filmed = (one: Film) => void (film = one);
  const showcase = new Showcase(wanted);
  const step = <T>(what: string, work: () => { count: number; result: T }): T => {
    const from = performance.now();
    const { count, result } = work();
    steps.push({ what, count, milliseconds: Math.round(performance.now() - from) });
    return result;
  };
  try {
    const keys = step('Read the program', () => ({ count: 1, result: programKeys(folders) }));
    const loaded = ({ file, folder, bytes }: GameFile, count: number) =>
      void files.push({ file, folder, entries: count, bytes: bytes.length });
    const holds = step('Mounted archives', () => {
      const result = mounted(folders, '.hold').map((file) => {
        const hold = readHold(file.file, file.bytes, keys.content);
        loaded(file, hold.rows.length);
        return hold;
      });
      if (!result.some((hold) => hold.file === 'core.hold')) stopWithoutCore();
      return { count: result.length, result };
    });
    const entries = step('Laid entries over each other', () => {
      const result = new Map<string, Mounted>();
      for (const hold of holds) {
        for (const row of hold.rows) {
          if (row.deleted) result.delete(row.path);
          else result.set(row.path, inHold(hold, row));
        }
      }
      return { count: result.size, result };
    });
    step('Unpacked and checked entries', () => {
      let count = 0;
      for (const hold of holds) {
        for (const row of hold.rows) {
          if (row.deleted) continue;
          checkContent(hold.file, row.path, hold.bytes(row));
          count++;
        }
      }
      return { count, result: undefined };
    });
    step('Looked for files beside the archives', () => {
      const loose = layLooseFiles(folders, entries);
      for (const { file, folder, bytes } of loose) {
        checkContent(file, file, bytes);
        loaded({ file, folder, bytes }, 1);
      }
      return { count: loose.length, result: undefined };
    });
    const winner = (path: string) => {
      const found = entries.get(path);
      return found && { file: found.file, bytes: found.bytes() };
    };
    step('Hung up the models', () => ({
      count: loadModels(entries.keys(), winner, showcase.textured, showcase.modelled),
      result: undefined,
    }));
    const note = (finding: Omit<Finding, 'severity'>) => {
      const alike = notes.get(finding.code) ?? { count: 0, last: finding };
      notes.set(finding.code, { count: alike.count + 1, last: finding });
      if (alike.count < MOST_ALIKE) findings.push({ severity: 'note', ...finding });
    };
    for (const [what, load] of PARTS)
      step(what, () => ({
        count: load({ folders, keys, note, loaded, heard: showcase.heard, filmed }),
        result: undefined,
      }));
    showcase.rest(winner);
    scene = step('Drew the title scene', () => ({ count: 1, result: drawScene(entries) }));
  } catch (error) {
    if (!(error instanceof LoadStop)) throw error;
    findings.push({ severity: 'stop', ...error.finding });
  }
  for (const { count, last } of notes.values())
    if (count > MOST_ALIKE)
      findings.push({ severity: 'note', ...last, found: `${count - MOST_ALIKE} more like these` });
  return {
    started: findings.every((finding) => finding.severity !== 'stop'),
    steps,
    findings,
    files,
    scene,
    film,
    shown: showcase.shown,
  };
}

/** Notes of one kind that are told one by one. */
const MOST_ALIKE = 100;

/** A file of the game's folder at the path of an entry is taken in its place. @returns those that were */
function layLooseFiles(folders: readonly string[], entries: Map<string, Mounted>): GameFile[] {
  const loose: GameFile[] = [];
  for (const path of entries.keys()) {
    const found = path.includes('..') ? undefined : findFile(folders, path);
    if (found === undefined) continue;
    entries.set(path, { file: path, bytes: () => found.bytes });
    loose.push(found);
  }
  return loose;
}

function stopWithoutCore(): never {
  throw new LoadStop({
    code: 'CORE',
    file: 'core.hold',
    offset: 0,
    rule: 'core.hold is in the game folder.',
    found: 'nothing',
  });
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
    return { path, from: mounted.file, bytes: mounted.bytes() };
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
