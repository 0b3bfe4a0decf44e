/** A file that is no archive, as an archive of itself: what it holds is seen, changed and put back like any entry. */
import { compileRecipe, type Recipe } from '../recipe';

/** It is no format, and is never matched with files: whoever looks at a folder says which of its files it is for. */
export const LOOSE_RECIPE = 'loose-file';

const TEXT = `
recipe: ${LOOSE_RECIPE}
title: Loose file
revision: 1
numbers: little
alone: true
layouts: [keep]
shapes:
  file: [{ field: body, as: data(rest) }]
regions:
  - { region: all, at: 0, holds: file }
presents: archive
entries: { each: file in all, path: file-name() }
`;

let compiled: Recipe | undefined;

export function looseRecipe(): Recipe {
  return (compiled ??= compileRecipe(TEXT));
}
