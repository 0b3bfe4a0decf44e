/** `make.ts FOLDER BUILD [SIZE]`: the entry point of the generator. */
import { BUILDS, gameKey, makeGame, SIZES, type Build, type Size } from './make-game';

const KEYS = [
  ['content', 'core.hold and core-spring.hold'],
  ['voices', 'voices.cue, voices.de.cue, voices.fr.cue'],
  ['reel', 'scenes.reel'],
] as const;

const is = (list: readonly string[], word: string | undefined) => word !== undefined && list.includes(word);
const [folder, build, size = 'small'] = process.argv.slice(2);
if (folder === undefined || !is(BUILDS, build) || !is(SIZES, size)) {
  process.stderr.write(`make.ts FOLDER ${BUILDS.join('|')} [${SIZES.join('|')}]\n`);
  process.exitCode = 2;
} else {
  void makeGame(folder, build as Build, size as Size).then((made) => {
    process.stdout.write(`Gondola Post ${made.build}: ${made.files} files, ${made.bytes} bytes in ${made.folder}\n`);
    process.stdout.write('Its keys, for trying things out:\n');
    for (const [slot, what] of KEYS)
      process.stdout.write(`  ${gameKey(made.build, slot).toString('hex')}  ${slot}: ${what}\n`);
  });
}
