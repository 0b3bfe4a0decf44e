/** A first look at one file: what distinguishes it from others, and what it may be. */
import { join } from 'node:path';
import { openFile } from '../../../core/bytes/node';
import { looseKind, type Kind } from '../../../core/game';
import { recogniseFile, type Fit, type Recipe } from '../../../core/recipe';
import { kindByRecipe } from '../../recipes';
import { fingerprintOf } from './fingerprint';
import type { FoundFile } from './walk';

export interface Glance {
  readonly fingerprint: string;
  readonly fits: readonly Fit[];
  /** What a file is that is no archive; undefined where that is unknown. */
  readonly kind: Kind | undefined;
}

const HEAD_BYTES = 4096;

/** @throws FaultError when the file cannot be read */
export async function glanceAt(
  file: FoundFile,
  { folder, recipes }: { readonly folder: string; readonly recipes: readonly Recipe[] },
): Promise<Glance> {
  const source = await openFile(file.at ?? join(folder, file.path), file.path);
  try {
    const fingerprint = await fingerprintOf(source);
    const { fits } = await recogniseFile(recipes, source);
    if (fits.length > 0 || source.size === 0) return { fingerprint, fits, kind: undefined };
    const head = await source.read(0, Math.min(HEAD_BYTES, source.size));
    return { fingerprint, fits, kind: (await kindByRecipe(file.path, head, recipes)) ?? looseKind(file.path, head) };
  } finally {
    await source.close();
  }
}
