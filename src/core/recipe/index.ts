export { compileRecipe } from './compile/compile';
export { parseExpression, type Expression } from './language/expression';
export { quoteCalls } from './language/quote-calls';
export { type Value } from './formula/value';
export { DEFAULT_LIMITS, type Limits } from './limits';
export {
  type Formula,
  type NumberKind,
  type PackedRule,
  type PackedVertices,
  type PaletteKind,
  type Recipe,
  type VertexArrays,
} from './model';
export { archiveFiles, buildText, openArchive, type Archive } from './open';
export { checkFormulas, type FormulaCheck } from './proof/formula-check';
export { editsHold } from './proof/edit-proof';
export { EDIT_WORDS, type EditKind, type EditProof, type Proof } from './proof/proof';
export { isProven, prove } from './proof/prove';
export { keyProbe, type KeyProbe } from './read/key-probe';
export { openTables } from './read/archive';
export type { Keys, OpenedArchive, OpenOptions } from './read/opened-archive';
export { matches } from './read/signature';
export { contentTags } from './read/content-tags';
export { explainedBytes } from './read/coverage';
export {
  entryFieldPlace,
  entryValue,
  fieldPlace,
  regionBytes,
  rowFieldPlaces,
  rowFields,
  rowValues,
  valueIn,
} from './read/file-values';
export { pathHashing } from './read/path-hashes';
export { smallReader } from './read/entry-bytes';
export { entrySize, followLink, readLinked as readEntry, storedLinked as storedSource } from './read/links';
export { NAMELESS, type EntryTable } from './read/entry-table';
export { explainEntry, explainRegion, type ExplainedField } from './read/explain';
export { uniquePaths } from './read/unique-paths';
export { companionPaths, volumeNumber } from './read/volumes';
export { recogniseFile, type Fit, type Recognition } from './recognise';
export { vocabulary, type Vocabulary } from './vocabulary';
export type { Layout } from './model';
export { LAYOUTS, NO_EDITS, type Edits, type FieldEdit } from './write/edits/edits';
export { textCodec, type TextCodec } from './kinds/text-codec';
export { locksOf, type Locks } from './read/locks';
export { planNew, planRebuild } from './write/plan';
export { rowsAreFixed } from './write/edits/carriers';
export { verifyWritten } from './write/checking/written';
export {
  isUnchanged,
  volumeBytes,
  writePlan,
  writeVolume,
  type Plan,
  type PlannedVolume,
} from './write/rendering/planned';
