/** The model of a compiled recipe. */
export type { ContentHash, ContentPart, Formula, Uses } from './formula';
export type { Budget, FieldKind, FieldType, Flow, FoundPart, ReadContext, RegionWriter, SplicedBytes } from './kind';
export type { Check, Demand, Field, Part, Shape } from './shape';
export type { KeySlot, Layout, Match, Region, Search, SlotRule, Step, VolumeSet } from './region';
export type { Binding, BlocksRule, ContentRule, EntriesRule, FoldersRule, MadeRule, Method } from './entries';
export type { FilmRule, LanguagesRule, RecipeSoundRule, SoundRule, WordsRule } from './entry-forms';
export type {
  AttributeRule,
  ClipRule,
  FontRule,
  MeshRule,
  NumberKind,
  PackedRule,
  PackedVertices,
  PaletteKind,
  PictureRule,
  RectanglesRule,
  VertexArrays,
} from './forms';
export type { Recipe } from './recipe';
