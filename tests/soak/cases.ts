/** Cases at random: damaged archives, changed recipes, odd names. A number makes the same case everywhere. */
import { compileRecipe, type Recipe } from '../../src/core/recipe';
import { runFormat } from '../formats/generated/exercise';
import type { SampleEntry, SampleFile, SampleFormat } from '../formats/sample';
import * as demo from '../formats/samples-demo';
import * as packing from '../formats/samples-packing';
import * as tables from '../formats/samples-tables';
import * as trees from '../formats/samples-trees';
import { Dice } from './dice';
import { exercise, refusal, someBytes, someEdits, type Outcome } from './exercise';
import { NAMES } from './names';

const FORMATS: readonly SampleFormat[] = [tables, trees, packing, demo].flatMap((module) => Object.values(module));

/** `format` is asked for by itself: each of its cases takes longer. */
export const KINDS = ['archive', 'recipe', 'names', 'format'] as const;
export type Kind = (typeof KINDS)[number];

const compiled = new Map<SampleFormat, Recipe>();

function recipeOf(format: SampleFormat): Recipe {
  const known = compiled.get(format) ?? compileRecipe(format.recipe);
  compiled.set(format, known);
  return known;
}

function someEntries(format: SampleFormat, dice: Dice): readonly SampleEntry[] {
  if (format.samples !== undefined) return format.samples;
  return Array.from({ length: 1 + dice.upTo(6) }, (_, i) => ({
    path: `${dice.pick(['', 'a/', 'a/b/'])}entry${i}.bin`,
    bytes: someBytes(dice),
  }));
}

/** @throws Broken when it ends as no case may */
export async function runCase(kind: Kind, seed: number): Promise<Outcome> {
  if (kind === 'format') return runFormat(seed);
  const dice = new Dice(seed);
  const format = dice.pick(FORMATS);
  const entries = someEntries(format, dice);
  const files = await format.make(entries);
  const setting = {
    recipe: recipeOf(format),
    files,
    keys: format.keys ?? {},
    names: format.hashed === true ? entries.map(({ path }) => path) : [],
  };
  const grows = format.grows === true;
  const edits = (paths: readonly string[]) => (archive: Parameters<typeof someEdits>[0]) =>
    someEdits(archive, dice, grows, paths);
  switch (kind) {
    case 'archive':
      return exercise({ ...setting, files: damaged(files, dice) }, dice, edits(['new/one.txt']));
    case 'recipe': {
      const recipe = changedRecipe(format.recipe, dice);
      if (typeof recipe === 'string') return recipe;
      return exercise({ ...setting, recipe }, dice, edits(['new/one.txt']));
    }
    case 'names':
      return exercise(setting, dice, edits([dice.pick(NAMES), dice.pick(NAMES)]));
  }
}

function damaged(files: readonly SampleFile[], dice: Dice): SampleFile[] {
  const chosen = dice.upTo(files.length - 1);
  return files.map((file, i) => (i === chosen ? { ...file, bytes: damagedBytes(file.bytes, dice) } : file));
}

/** Numbers that counts, sizes and offsets are seldom tried with. */
const SPIKES = [0, 1, 0x7f, 0x80, 0xff, 0x7fff, 0x8000, 0xffff, 0x7fffffff, 0x80000000, 0xffffffff];

function damagedBytes(whole: Uint8Array, dice: Dice): Uint8Array {
  let bytes = Buffer.from(whole);
  for (let times = 1 + dice.upTo(3); times > 0 && bytes.length > 8; times--) {
    const at = dice.chance(0.5) ? dice.upTo(Math.min(63, bytes.length - 8)) : dice.upTo(bytes.length - 8);
    switch (dice.upTo(5)) {
      case 0:
        bytes[at]! ^= 1 << dice.upTo(7);
        break;
      case 1:
        bytes.writeUInt32LE(dice.pick(SPIKES), at);
        break;
      case 2:
        bytes.writeUInt32BE(dice.pick(SPIKES), at);
        break;
      case 3:
        bytes = bytes.subarray(0, at + 1);
        break;
      case 4:
        bytes = Buffer.concat([bytes.subarray(0, at), dice.bytes(1 + dice.upTo(40)), bytes.subarray(at)]);
        break;
      default:
        bytes.copyWithin(at, dice.upTo(bytes.length - 8), bytes.length);
    }
  }
  return bytes;
}

const WORDS =
  'u8 u16 u32 u64 i32 varint text(zero,utf-8) bytes(4) data(rest) entry.path entry.size entry.at entry.stored 0 1 -1 999999999999 end here count(entries) length(entry.path) nothing previous.end entry.index row item outer self crc32(entry.data) head in is: as: must: at: when: size: sort: through: [zlib] [deflate] patch keep { } [ ] ( ) ..'.split(
    ' ',
  );

/** How often a recipe is changed until a change compiles; what does not is a case too. */
const MOST_TRIES = 12;

function changedRecipe(text: string, dice: Dice): Recipe | Outcome {
  let outcome: Outcome = 'done';
  for (let tries = 0; tries < MOST_TRIES; tries++) {
    try {
      return compileRecipe(changedText(text, dice));
    } catch (error) {
      outcome = refusal(error);
    }
  }
  return outcome;
}

function changedText(text: string, dice: Dice): string {
  const lines = text.split('\n');
  for (let times = 1 + dice.upTo(2); times > 0; times--) {
    const at = dice.upTo(lines.length - 1);
    const line = lines[at]!;
    switch (dice.upTo(4)) {
      case 0:
        lines.splice(at, 1);
        break;
      case 1:
        lines.splice(at, 0, lines[dice.upTo(lines.length - 1)]!);
        break;
      case 2: {
        const other = dice.upTo(lines.length - 1);
        [lines[at], lines[other]] = [lines[other]!, line];
        break;
      }
      default: {
        const tokens = line.split(/([A-Za-z0-9.-]+)/u);
        const token = dice.upTo(tokens.length - 1);
        // Words of another line fit more often than any word does.
        const others = lines[dice.upTo(lines.length - 1)]!.match(/[A-Za-z0-9.-]+/gu) ?? [];
        tokens[token] = dice.pick(others.length > 0 && dice.chance(0.6) ? others : WORDS);
        lines[at] = tokens.join('');
      }
    }
  }
  return lines.join('\n');
}
