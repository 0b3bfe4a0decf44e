/** The command line: the core without web or database. */
import { Command, CommanderError, Option } from 'commander';
import { faultOf, sayFault } from '../core/faults';
import { LAYOUTS } from '../core/recipe';
import { OUT_FORMATS } from './out-formats';

/** Exit codes: 0 done, 1 refused, 2 wrong usage, 3 a defect of ours; 141 when the output is no longer read (SIGPIPE). */
const REFUSED = 1;
const WRONG_USAGE = 2;
const DEFECT = 3;
const NO_READER = 141;

const gather = (value: string, before: string[]) => [...before, value];

function withArchive(command: Command): Command {
  return command
    .option('--recipe <file|id>', 'recipe to use instead of recognising the format')
    .option('--key <slot=value>', 'key for a slot: hex, base64 or text', gather, [])
    .option('--names <file>', 'name list for hashed entries: a path a line', gather, [])
    .option('--limit <name=number>', 'raise a limit, such as maxEntryBytes=20000000000', gather, []);
}

/** Each command is loaded when it is asked for: converters of forms take longer than most commands run. */
function makeProgram(): Command {
  const program = new Command('zero-latch')
    .description('Open game archives, take entries out, put changed ones back, and prove that it is right.')
    .exitOverride()
    .showHelpAfterError('(zero-latch --help shows all commands)');

  withArchive(program.command('list'))
    .description('list the entries of an archive')
    .argument('<file...>', 'the volumes of one archive, the main one first')
    .option('--json', 'print one JSON object')
    .action(async (files: string[], options) => (await import('./list')).list(files, options));

  withArchive(program.command('take'))
    .description('take entries out into a folder')
    .argument('<file>', 'the main file of the archive')
    .argument(
      '[more...]',
      'further volumes, then which entries: paths, or patterns with * and **; all when none is given',
    )
    .requiredOption('--to <dir>', 'folder to write into')
    .addOption(
      new Option(
        '--as <form>',
        'plain bytes, bytes as they are stored, or formats with commas between them, each for the entries of its form',
      )
        .choices(['open', 'stored', ...OUT_FORMATS])
        .default('open')
        // Several at once: taking out says which of them is not known.
        .argParser((text: string) => text),
    )
    .option('--over <file>', 'an archive that overrides those before it, such as a patch; may be repeated', gather, [])
    .option('--replace', 'write over files that are there and hold something else')
    .action(async (file: string, more: string[], options) => (await import('./take')).take(file, more, options));

  withArchive(program.command('put'))
    .description('write the archive with changes into a folder')
    .argument('<file...>', 'the volumes of one archive, the main one first')
    .requiredOption('--to <dir>', 'folder to write into')
    .option('--change <path=file>', 'replace the bytes of an entry', gather, [])
    .option('--add <path=file>', 'add an entry', gather, [])
    .option('--remove <path>', 'remove an entry', gather, [])
    .addOption(new Option('--how <layout>', 'how the file is laid out').choices([...LAYOUTS]))
    .option('--fit', 'convert changed pictures, sounds, meshes and fonts to match the originals')
    .option('--replace', 'write over files of that name that are there')
    .action(async (files: string[], options) => (await import('./put')).put(files, options));

  withArchive(program.command('prove'))
    .description('prove the recipe on an archive, in five parts')
    .argument('<file...>', 'the volumes of one archive, the main one first')
    .option('--json', 'print one JSON object')
    .action(async (files: string[], options) => (await import('./prove')).proveFiles(files, options));

  program
    .command('run')
    .description('run a routine of a running Zero Latch, and follow it to its end')
    .argument('<routine>', 'its name')
    .option('--game <name>', 'the game it is of, where several have one of that name')
    .option('--at <address>', 'where Zero Latch answers', 'http://127.0.0.1:4310')
    .action(async (name: string, options) => (await import('./run')).runRoutine(name, options));

  program
    .command('demo')
    .description('make the folder of Gondola Post, the demo game')
    .addOption(new Option('--size <size>', 'how much of it').choices(['small', 'large']).default('small'))
    .addOption(new Option('--build <build>', 'which build').choices(['1.4.1', '1.4.2']).default('1.4.1'))
    .requiredOption('--to <dir>', 'folder to write into')
    .action(async (options) => (await import('./demo')).demo(options));

  program
    .command('judge')
    .description('let the stand-in game load folders, the later over the earlier')
    .argument('<dir...>', 'the game folder, then builds to lay over it')
    .option('--json', 'print one JSON object')
    .option('--scene <dir>', 'write the picture, sound and caption of the scene there')
    .action(async (folders: string[], options) => (await import('./demo')).judge(folders, options));

  return program;
}

async function main(): Promise<number> {
  try {
    await makeProgram().parseAsync();
    return Number(process.exitCode ?? 0);
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : WRONG_USAGE;
    const fault = faultOf(error);
    process.stderr.write(`${sayFault(fault)}\n`);
    if (fault.code === 'defect' && process.env['ZERO_LATCH_TRACE'] !== undefined)
      process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
    return fault.code === 'defect' ? DEFECT : fault.code === 'invalid-request' ? WRONG_USAGE : REFUSED;
  }
}

// `list | head` ends reading early: that is no error.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') process.stderr.write(`${sayFault(faultOf(error))}\n`);
  process.exit(error.code === 'EPIPE' ? NO_READER : REFUSED);
});

void main().then((code) => {
  process.exitCode = code;
});
