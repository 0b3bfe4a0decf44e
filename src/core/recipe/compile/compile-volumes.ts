/** The files of a format, and how a new one may be laid out. */
import picomatch from 'picomatch';
import { ANY_FILE } from '../language/folder-text';
import type { ParsedText } from '../language/recipe-text';
import type { EntriesRule, Recipe, Region, VolumeSet } from '../model';
import { invalid, isNumbered } from './setting';

export function compileVolumes(parsed: ParsedText): VolumeSet[] {
  const texts = Object.entries(
    parsed.recipe.volumes ?? { main: { file: '{name}', first: undefined, limit: undefined, optional: undefined } },
  );
  if (parsed.recipe.presents === 'folder' && !texts.some(([, { file }]) => file === ANY_FILE))
    throw invalid(parsed.lineOf(['volumes']), 'a folder needs a set of volumes with every file', 'files: "**"');
  return texts.map(([name, { file, first, limit, optional }], i) => {
    const anyFile = file === ANY_FILE;
    if (anyFile && parsed.recipe.presents !== 'folder')
      throw invalid(
        parsed.lineOf(['volumes', name]),
        'every file of a folder is one archive only in a folder',
        'presents: folder',
      );
    const numbered = isNumbered(file);
    if (i === 0 && numbered)
      throw invalid(parsed.lineOf(['volumes', name]), 'the first volume is the main one and has no number');
    return { name, pattern: file, numbered, anyFile, first: first ?? 0, limit, optional: optional ?? false };
  });
}

export function compilePaths(parsed: ParsedText): Recipe['isFor'] {
  const { paths, presents } = parsed.recipe;
  if (paths === undefined) return undefined;
  if (presents === 'archive' || presents === 'folder')
    throw invalid(
      parsed.lineOf(['paths']),
      'only the content of an entry can be recognised by its path',
      'match: BYTES',
    );
  return picomatch(paths, { dot: true, nocase: true });
}

/** @throws FormatError `recipe-invalid` when blocks that lie anywhere are to be kept where they are */
export function layoutsOf(parsed: ParsedText, { blocks }: EntriesRule, holders: readonly Region[]): Recipe['layouts'] {
  const { layouts, presents } = parsed.recipe;
  if (blocks?.at !== undefined && presents !== 'folder') {
    if (layouts?.some((layout) => layout !== 'afresh') === true)
      throw invalid(
        parsed.lineOf(['layouts']),
        'blocks that lie anywhere are written one behind the other, in an archive that is laid out afresh',
        'layouts: [afresh]',
      );
    return ['afresh'];
  }
  return layouts ?? (presents === 'folder' ? ['keep'] : layoutsFor(holders));
}

/** Where data lies in the order of its rows, nothing goes behind the others. */
function layoutsFor(regions: readonly Region[]): Recipe['layouts'] {
  return regions.some(({ order }) => order === 'rows') ? ['keep', 'afresh'] : ['keep', 'append', 'afresh'];
}
