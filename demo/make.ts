/** `make.ts FOLDER BUILD`: the entry point of the generator. */
import { BUILDS, gameKey, makeGame, type Build } from './make-game';

const KEYS = [
  ['content', 'core.hold and core-spring.hold'],
  ['voices', 'voices.cue, voices.de.cue, voices.fr.cue'],
  ['reel', 'scenes.reel'],
] as const;

const [folder, build] = process.argv.slice(2);
if (folder === undefined || !(BUILDS as readonly string[]).includes(build ?? '')) {
  process.stderr.write(`make.ts FOLDER ${BUILDS.join('|')}\n`);
  process.exitCode = 2;
} else {
  void makeGame(folder, build as Build).then((made) => {
    process.stdout.write(`Gondola Post ${made.build}: ${made.files} files, ${made.bytes} bytes in ${made.folder}\n`);
    process.stdout.write('Its keys, for trying things out:\n');
    for (const [slot, what] of KEYS)
      process.stdout.write(`  ${gameKey(made.build, slot).toString('hex')}  ${slot}: ${what}\n`);
  });
}
