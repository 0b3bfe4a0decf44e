/** Entries whose content follows from the others, and lists of names that an archive brings along. */
import { compileFormula } from '../formula/compile-formula';
import type { Formula, MadeRule } from '../model';
import { invalid, type Setting } from './setting';

/** Facts of an entry that do not follow from where it lies. */
const FACTS: ReadonlySet<string> = new Set(['path', 'name', 'folder', 'hash', 'size', 'time']);

export function compileMade(setting: Setting): MadeRule[] {
  const { parsed, names } = setting;
  return (parsed.recipe.entries.made ?? []).map((text, i): MadeRule => {
    const path = ['entries', 'made', i] as const;
    const line = parsed.lineOf([...path]);
    const formula = (key: 'each' | 'only' | 'sort' | 'first'): Formula | undefined => {
      const of = text[key];
      if (of === undefined) return undefined;
      const at = parsed.lineOf([...path, key]);
      const inside = { ...names, shape: undefined, rows: [], entry: key !== 'first' };
      const made = compileFormula(of, at, inside);
      const { uses } = made;
      const fact = [...uses.entry].find((one) => !FACTS.has(one));
      if (fact !== undefined || uses.layout || uses.late || uses.content.some(({ which }) => which !== 'data'))
        throw invalid(
          at,
          `${of} follows from where things lie, which follows from the content of this entry`,
          `entry.path, entry.size, entry.hash, entry.time, or hashes over entry.data`,
        );
      return made;
    };
    const each = formula('each')!;
    const only = formula('only');
    const sort = formula('sort');
    const all = [each, only, sort];
    return {
      path: text.path,
      line,
      each,
      only,
      sort,
      first: formula('first'),
      looksInside: all.some((one) => one !== undefined && (one.uses.content.length > 0 || one.uses.entry.has('size'))),
    };
  });
}
