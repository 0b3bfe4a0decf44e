/** A compiled recipe: plain data and closures, made once from the checked text. */
import type { Formula } from './formula';
import type { Shape } from './shape';
import type { Step, Region, VolumeSet, Match, KeySlot, Layout } from './region';
import type { Binding, EntriesRule } from './entries';
import type { FormWord } from '../language/form-parts';
import type { RecipeSoundRule } from './entry-forms';
import type { ClipRule, FontRule, MeshRule, PictureRule } from './forms';

export interface Recipe {
  readonly id: string;
  readonly title: string;
  readonly revision: number;
  /** Recipes of one game or engine have the same; undefined for those of open formats. */
  readonly collection: string | undefined;
  readonly text: string;
  readonly presents: 'archive' | 'folder' | FormWord;
  /** Set when it presents a picture. */
  readonly picture: PictureRule | undefined;
  /** Set when it presents a mesh. */
  readonly mesh: MeshRule | undefined;
  /** Tables of records by name, when it presents some. */
  readonly records: ReadonlyMap<string, Binding> | undefined;
  /** Set when it presents a clip. */
  readonly clip: ClipRule | undefined;
  /** Set when it presents a font. */
  readonly font: FontRule | undefined;
  /** Set when it presents a sound. */
  readonly sound: RecipeSoundRule | undefined;
  /** A file fits when all tests of one of these lists hold. */
  readonly match: readonly (readonly Match[])[];
  /** Whether an entry of that path may have this form; undefined where any may. */
  readonly isFor: ((path: string) => boolean) | undefined;
  readonly needs: ReadonlyMap<string, string>;
  readonly slots: ReadonlyMap<string, KeySlot>;
  readonly volumes: readonly VolumeSet[];
  /** Steps the whole main volume goes through before anything else. */
  readonly wrapped: readonly Step[];
  readonly shapes: readonly Shape[];
  readonly regions: readonly Region[];
  /** Region indices in the order in which they can be read. */
  readonly readingOrder: readonly number[];
  readonly entries: EntriesRule;
  /** The region that holds the entries' bytes, and its set of volumes; undefined when they lie in their rows. */
  readonly dataRegions: readonly Region[];
  /** The region whose entries are packed together, which is none of those. */
  readonly solid: Region | undefined;
  readonly duplicates: 'keep' | 'share';
  /** True when the game reads this one file and none beside it; false when it reads others too; undefined when that is not known. */
  readonly alone: boolean | undefined;
  /** The layouts of a rebuilt archive that the game loads, the preferred one first; a patch is another question. */
  readonly layouts: readonly Exclude<Layout, 'patch'>[];
  /** The archive does not open when anything about it is wrong. */
  readonly strict: boolean;
  /** A file has this format only when it has no other. */
  readonly last: boolean;
  /** True when a step is a JavaScript function of the recipe's own. */
  readonly hasOwnSteps: boolean;
  /** Gives `little` or `big`, where the file states it. */
  readonly endianness: Formula | undefined;
  /** A text that says which build of the game the file comes from. */
  readonly build: Formula | undefined;
}
