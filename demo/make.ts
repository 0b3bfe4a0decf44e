/** `make.ts FOLDER BUILD`: the entry point of the generator. */
import { BUILDS, contentKey, makeGame, type Build } from './make-game';

const [folder, build] = process.argv.slice(2);
if (folder === undefined || !(BUILDS as readonly string[]).includes(build ?? '')) {
  process.stderr.write(`make.ts FOLDER ${BUILDS.join('|')}\n`);
  process.exitCode = 2;
} else {
  void makeGame(folder, build as Build).then((made) => {
    process.stdout.write(
      `Gondola Post ${made.build}: ${made.entries} entries, ${made.bytes} bytes in ${made.folder}\n`,
    );
    process.stdout.write(`Its content key, for trying things out: ${contentKey(made.build).toString('hex')}\n`);
  });
}
