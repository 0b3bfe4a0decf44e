/** `judge.ts [--json] [--scene DIR] FOLDER...`: the entry point of the stand-in game. Exits 1 when it would not start. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { loadGame } from './stand-in/load';

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { json: { type: 'boolean' }, scene: { type: 'string' } },
});

if (positionals.length === 0) {
  process.stderr.write('judge.ts [--json] [--scene DIR] FOLDER...\n');
  process.exit(2);
}

const report = loadGame(positionals);
const { scene, ...rest } = report;
if (values.scene !== undefined && scene !== undefined) {
  mkdirSync(values.scene, { recursive: true });
  writeFileSync(join(values.scene, 'livery.png'), scene.livery.bytes);
  writeFileSync(join(values.scene, 'tannoy.wav'), scene.tannoy.bytes);
}
const shown =
  scene === undefined
    ? null
    : {
        caption: scene.caption,
        language: scene.language,
        livery: { path: scene.livery.path, from: scene.livery.from },
        tannoy: { path: scene.tannoy.path, from: scene.tannoy.from },
      };
if (values.json === true) process.stdout.write(`${JSON.stringify({ ...rest, scene: shown })}\n`);
else {
  for (const step of report.steps) process.stdout.write(`${step.what}: ${step.count}\n`);
  for (const finding of report.findings) {
    const where = `${finding.file}${finding.entry === undefined ? '' : `, ${finding.entry}`} at 0x${finding.offset.toString(16).toUpperCase()}`;
    process.stdout.write(`${finding.code}: ${where}: ${finding.rule} Found: ${finding.found}\n`);
  }
  if (shown !== null)
    process.stdout.write(`Scene: ${shown.livery.path} from ${shown.livery.from}, “${shown.caption}”\n`);
  process.stdout.write(report.started ? 'The game starts.\n' : 'The game stays on its loading screen.\n');
}
process.exitCode = report.started ? 0 : 1;
