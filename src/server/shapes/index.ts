/**
 * What crosses between server and page: checked on the way in, plain on the way out. It imports only Zod and plain shapes of the
 * core.
 */
export {
  type AddOrder,
  type ArchiveChoice,
  type IncomingFile,
  type IncomingFiles,
  type ImportFile,
  type UnfinishedImport,
  type IncomingFileState,
  type ChangeAction,
  type ChangeAnswer,
  type ChangeEdit,
  type ChangeStatus,
  type FilmChoices,
  type FilmOptions,
  type FitOptions,
  type InsteadAnswer,
  MOST_LISTED_CHANGES,
  type NumbersAnswer,
  type NumbersOrder,
  type OtherLanguage,
} from './changes';
export { type FilmFileAnswer } from './film-file';
export { type FilmFacts, filmOrder, type FilmOrder } from './films';
export { type HomeAnswer, type HomeBuild, type HomePart, type MeasuredHome } from './home';
export { type FaultAnswer, KIND_NAMES, type KindName } from './common';
export { type ComparedAnswer, type ComparedSide } from './compare';
export {
  findInEntryOrder,
  type HitAnswer,
  type HitsPage,
  insideOrder,
  type TextOrder,
  type TextPlace,
  type TextPlaceAnswer,
  textPlaceQuery,
  type LinksAnswer,
  type PlaceInBytes,
} from './content-search';
export { type EntryDetails, type Glance } from './entry-details';
export { type LevelHead, levelQuery, type LevelQuery, type PictureFacts } from './picture';
export { type SoundFacts } from './sound';
export { type MeshFacts } from './mesh';
export { type FontGaps, type FontGapsAnswer, fontLineQuery, type FontLineQuery } from './font';
export type { FormFacts } from './form-facts';
export { type LabelTableAnswer, type LabelTableOrder } from './labels';
export {
  type EntryPage,
  entryPlace,
  type EntryPlace,
  entryQuery,
  type EntryQuery,
  type EntryRow,
  type FolderRow,
  type ListPart,
  type SavedSearch,
  searchEdit,
} from './lists';
export { type OverviewAnswer, type ShareAnswer } from './overview';
export {
  type ArchiveAnswer,
  type ArchiveNews,
  type ArchiveState,
  type FitAnswer,
  type GameAnswer,
  type LooseFiles,
  type GameProfile,
  type GameRow,
  type InsideAnswer,
  type LoadOrderEdit,
  type NameListAnswer,
  type PatternEdit,
  type PlacesAnswer,
  type ProfileTaken,
  type ScanAnswer,
  type ScanNews,
  type StripBand,
} from './games';
export type { KeyAnswer, XorAnswer, XorOrder } from './keys';
export {
  type WordLine,
  type WordsAnswer,
  type WordsFile,
  type LanguageAnswer,
  type LanguageOrder,
  wordsFileQuery,
  type WordsPair,
  wordsQuery,
  type WordsQuery,
  type WordTablesAnswer,
} from './words';
export { type ModAnswer, type ModEdit, type ModsAnswer, type SharedFile, shareOrder, type ShareOrder } from './mods';
export {
  type BuildAnswer,
  type BuildFile,
  type BuiltChange,
  type ToldChange,
  type How,
  HOWS,
  type InstallAnswer,
  type InstallFile,
  type PutBackAnswer,
  type NamedRoutine,
  type RoutineAnswer,
  type RoutineOrder,
  type RoutineStep,
  sceneQuery,
  type InstalledFileStatus,
  type TestRulesAnswer,
  type TestRulesEdit,
  type BuildWays,
  type WayAnswer,
  type WayRefusal,
  type WaysAnswer,
} from './put-back';
export { type CommandReport, type JudgeFinding, type JudgeReport, judgeFilm, judgeReport, judgeScene } from './judge';
export {
  type CheckAnswer,
  type CollectionAnswer,
  type CollectionTaken,
  type HintsAnswer,
  type PlacedFault,
  type RecipeAnswer,
  type TriedField,
  type TryAnswer,
  type VocabularyAnswer,
} from './recipes';
export {
  type CellEdit,
  type RecordLine,
  type RecordReference,
  recordsQuery,
  type RecordsPage,
  type RecordsQuery,
  type RecordTable,
  type RecordTablesAnswer,
  type ReferenceEdit,
  type TileMapAnswer,
  type TileMapEdit,
  tileMapQuery,
  type WhereAnswer,
} from './records';
export {
  type KeySearchFind,
  type OutgoingEntry,
  QUEUES,
  RUN_KINDS,
  type RunInput,
  type RunKind,
  type RunOrder,
  type RunResult,
  RUNS,
} from './run-contracts';
export { type LogLine, type RunAnswer, runNews, type RunNews, type RunState } from './runs';
export {
  type Clash,
  type ClashesAnswer,
  MOST_DECISIONS,
  takeOutOrder,
  type TakeOutOrder,
  type TrayAnswer,
  trayEdit,
  type TrayListed,
} from './take-out';
export { signInOrder } from './access';
export { type ParamsOf, type RouteContract, type RouteKey, ROUTES, TEXTS } from './routes';
export { type ProofAnswer } from './proof';
