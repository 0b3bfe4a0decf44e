import type { KeySlot, Region, Shape } from '../model';
import { FormatError } from '../../faults';
import { compileFormula } from '../formula/compile-formula';
import type { Names } from '../formula/names';
import { ANY_FILE } from '../language/folder-text';
import type { FormWord } from '../language/form-parts';
import type { ParsedText } from '../language/recipe-text';
import type { TextPath } from '../language/yaml-text';
import type { Formula } from '../model';
import type { Codec } from '../../codecs';

/** What every part of a recipe is compiled against. */
export interface Setting {
  readonly parsed: ParsedText;
  readonly shapes: ReadonlyMap<string, Shape>;
  readonly slots: ReadonlyMap<string, KeySlot>;
  /** The recipe's own steps. */
  readonly own: ReadonlyMap<string, Codec>;
  /** Names that are known everywhere: regions, slots, `let`, volumes. */
  readonly names: Names;
  readonly numbers: 'little' | 'big' | 'stored';
}

export function invalid(line: number, what: string, expected?: string, hint?: string): FormatError {
  return new FormatError({
    code: 'recipe-invalid',
    line,
    what,
    ...(expected === undefined ? {} : { expected }),
    ...(hint === undefined ? {} : { hint }),
  });
}

/** Runs `work`; a fault of it gets the line of the recipe. */
export function inLine<T>(line: number, work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw error instanceof FormatError ? error.with({ line }) : error;
  }
}

/** Compiles the formulas of one part of a recipe by their words. */
export function formulasOf<T extends object>(
  part: T,
  path: TextPath,
  setting: Setting,
  names: Names,
): (key: keyof T & string) => Formula | undefined {
  return (key) => {
    const text = part[key];
    if (text === undefined) return undefined;
    return compileFormula(String(text), setting.parsed.lineOf([...path, key]), names);
  };
}

/** @throws FormatError `recipe-invalid` when a recipe presents a form and does not say how, or the other way round */
export function checkForm(form: FormWord, { parsed }: Setting): void {
  const { presents, [form]: part } = parsed.recipe;
  if ((part === undefined) === (presents !== form)) return;
  throw part === undefined
    ? invalid(
        parsed.lineOf(['presents']),
        `it needs the part ${form}, which says which fields tell what`,
        `${form}: { … }`,
      )
    : invalid(parsed.lineOf([form]), `only what presents ${form} has that part`, `presents: ${form}`);
}

/** The region of bytes with that name. */
export function regionOfBytes(name: string, line: number, regions: readonly Region[]): number {
  const region = regions.find((one) => one.name === name.trim());
  if (region?.holds === 'bytes') return region.index;
  const fitting = regions.filter(({ holds }) => holds === 'bytes').map((one) => one.name);
  throw invalid(line, `no region of bytes is called ${name}`, fitting.join(', ') || 'a region with holds: bytes');
}

/** True for the pattern of a set of volumes that are distinguished by their number. */
export function isNumbered(pattern: string): boolean {
  return pattern === ANY_FILE || /\{n(:0+)?\}/.test(pattern);
}
