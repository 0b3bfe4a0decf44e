/**
 * `judge.ts [--json] [--scene DIR] [--show PATH]... FOLDER...`: the entry point of the stand-in game. Exits 1 when it would
 * not start. `--scene` keeps what the title scene shows, and each entry of `--show` as it is seen or heard in the game.
 */
import { mkdirSync, writeFileSync } from 'node:fs';
import { extname, join } from 'node:path';
import { parseArgs } from 'node:util';
import sharp from 'sharp';
import { loadGame } from './stand-in/load';
import type { Film, Report, Shown } from './stand-in/report';

async function fileOf({ path, what }: Shown): Promise<{ ending: string; bytes: Buffer }> {
  switch (what.is) {
    case 'file':
      return { ending: extname(path), bytes: what.bytes };
    case 'picture': {
      const { width, height, rgba } = what;
      return {
        ending: '.png',
        bytes: await sharp(rgba, { raw: { width, height, channels: 4 } })
          .png()
          .toBuffer(),
      };
    }
    case 'sound':
      return { ending: '.wav', bytes: waveOf(what.rate, what.samples) };
  }
}

/** RIFF WAVE of one channel of 16 bits. */
function waveOf(rate: number, samples: Int16Array): Buffer {
  const out = Buffer.alloc(44 + samples.length * 2);
  out.write('RIFF', 0, 'latin1');
  out.writeUInt32LE(out.length - 8, 4);
  out.write('WAVEfmt ', 8, 'latin1');
  for (const [at, value] of [16, 0x10001, rate, rate * 2, 0x100002].entries()) out.writeUInt32LE(value, 16 + at * 4);
  out.write('data', 36, 'latin1');
  out.writeUInt32LE(samples.length * 2, 40);
  for (const [i, sample] of samples.entries()) out.writeInt16LE(sample, 44 + i * 2);
  return out;
}

/** Writes the scene and what is shown. @returns the shown ones with the names of their files */
async function keep(
  folder: string,
  { scene, film, shown }: Report,
): Promise<{ path: string; from: string; file: string }[]> {
  mkdirSync(folder, { recursive: true });
  if (scene !== undefined) {
    writeFileSync(join(folder, 'livery.png'), scene.livery.bytes);
    writeFileSync(join(folder, 'tannoy.wav'), scene.tannoy.bytes);
  }
  if (film !== undefined) {
    const delay = new Array<number>(film.frames.length).fill(Math.round(1000 / film.rate));
    await sharp([...film.frames], { join: { animated: true } })
      .webp({ delay, loop: 1, quality: 80 })
      .toFile(join(folder, 'film.webp'));
    writeFileSync(join(folder, 'film.wav'), waveOf(film.soundRate, film.samples));
  }
  return Promise.all(
    shown.map(async (one, i) => {
      const { ending, bytes } = await fileOf(one);
      const file = `shown-${i}${ending}`;
      writeFileSync(join(folder, file), bytes);
      return { path: one.path, from: one.from, file };
    }),
  );
}

/** In the language of the scene. */
function filmTold(film: Film | undefined, language = ''): object | null {
  if (film === undefined) return null;
  const { file, frames, rate, subtitles } = film;
  return { file, seconds: frames.length / rate, subtitles: subtitles.get(language) ?? [] };
}

function say(report: Report): void {
  for (const step of report.steps) process.stdout.write(`${step.what}: ${step.count}\n`);
  for (const finding of report.findings) {
    const where = `${finding.file}${finding.entry === undefined ? '' : `, ${finding.entry}`} at 0x${finding.offset.toString(16).toUpperCase()}`;
    process.stdout.write(`${finding.code}: ${where}: ${finding.rule} Found: ${finding.found}\n`);
  }
  const { scene, started } = report;
  if (scene !== undefined)
    process.stdout.write(`Scene: ${scene.livery.path} from ${scene.livery.from}, “${scene.caption}”\n`);
  process.stdout.write(started ? 'The game starts.\n' : 'The game stays on its loading screen.\n');
}

async function main(): Promise<void> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { json: { type: 'boolean' }, scene: { type: 'string' }, show: { type: 'string', multiple: true } },
  });
  if (positionals.length === 0) {
    process.stderr.write('judge.ts [--json] [--scene DIR] [--show PATH]... FOLDER...\n');
    process.exitCode = 2;
    return;
  }
  const report = loadGame(positionals, values.show);
  const kept = values.scene === undefined ? [] : await keep(values.scene, report);
  if (values.json === true) {
    const { scene, film, started, steps, findings, files } = report;
    const named = ({ path, from }: { path: string; from: string }) => ({ path, from });
    const told =
      scene === undefined
        ? null
        : {
            caption: scene.caption,
            language: scene.language,
            livery: named(scene.livery),
            tannoy: named(scene.tannoy),
          };
    process.stdout.write(
      `${JSON.stringify({ started, steps, findings, files, scene: told, film: filmTold(film, scene?.language), shown: kept })}\n`,
    );
  } else say(report);
  process.exitCode = report.started ? 0 : 1;
}

void main();
