/** The tables as models. Entries have none: they are written with COPY and read with SQL of their own. */
import type { ListedBytes } from '../../core/carve';
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Fault } from '../../core/faults';
import type { MatchChoice } from '../../core/game';
import type { Note } from '../../core/notes';
import type { Proof } from '../../core/recipe';
import type {
  ArchiveNews,
  ArchiveState,
  IncomingFileState,
  BuildFile,
  BuildWays,
  ChangeAction,
  ChangeStatus,
  FitAnswer,
  FitOptions,
  GameProfile,
  How,
  InstallFile,
  JudgeReport,
  KindName,
  LogLine,
  RoutineStep,
  RunKind,
  RunState,
  ScanNews,
  StripBand,
  WaysAnswer,
} from '../shapes';

/** A file of an archive: its name next to the main one, bytes, and when it was changed, in milliseconds since 1970. */
export interface VolumeFacts {
  readonly name: string;
  readonly size: number;
  readonly modified: number;
}

export class GameModel extends Model<InferAttributes<GameModel>, InferCreationAttributes<GameModel>> {
  declare id: CreationOptional<number>;
  declare name: string;
  declare folder: string;
  /** Entries that win. */
  declare entryCount: CreationOptional<number>;
  /** Counts up whenever entries change. */
  declare catalogue: CreationOptional<number>;
  /** The catalogue that links between entries were made for. */
  declare linksFor: CreationOptional<number | null>;
  /** The catalogue the tables of records were made from. */
  declare recordsFor: CreationOptional<number | null>;
  declare createdAt: CreationOptional<Date>;
  declare scannedAt: CreationOptional<Date | null>;
  /** The build found at the last scan, and where it was found. */
  declare build: CreationOptional<string | null>;
  declare buildFrom: CreationOptional<string | null>;
  declare profile: CreationOptional<GameProfile>;
  declare recipesSeen: CreationOptional<string | null>;
  declare forgottenAt: CreationOptional<Date | null>;
  /** What each way to build would write, and for which changes that was worked out. */
  declare ways: CreationOptional<(WaysAnswer & { readonly mark: string }) | null>;
}

export interface FoundInside {
  readonly kinds: Readonly<Partial<Record<KindName, number>>>;
  /** Bits a byte of equal stretches. */
  readonly randomness: readonly number[];
  /** The blob of the table that says where everything is; none when nothing was found. */
  readonly table: string | null;
  /** Texts in it that a person took up, wherever else things were found. */
  readonly texts?: readonly ListedBytes[];
  /** No one has looked into it yet: only texts were taken up. */
  readonly notYetCarved?: true;
}

export class ArchiveModel extends Model<InferAttributes<ArchiveModel>, InferCreationAttributes<ArchiveModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  /** Relative to the game's folder, with `/`. */
  declare path: string;
  declare state: ArchiveState;
  declare recipe: string | null;
  declare title: string | null;
  /** Key slots the recipe asks for, with their kinds. */
  declare slots: Record<string, string>;
  declare fault: Fault | null;
  declare size: number;
  declare modified: number;
  declare entryCount: CreationOptional<number>;
  declare position: CreationOptional<number>;
  declare proof: CreationOptional<Proof | null>;
  declare bands: CreationOptional<StripBand[]>;
  declare fits: CreationOptional<FitAnswer[]>;
  /** Which of several fitting recipes a person chose. */
  declare chosen: CreationOptional<string | null>;
  /** The files of the archive as they were read, the main one first; empty while it is not open. */
  declare volumes: CreationOptional<VolumeFacts[]>;
  /** The archive this one is an entry of, and which. */
  declare parentId: CreationOptional<number | null>;
  declare parentN: CreationOptional<number | null>;
  declare fingerprint: CreationOptional<string | null>;
  /** What it was read with, in one word: its recipe, and those of forms. */
  declare readWith: CreationOptional<string | null>;
  /** Ids of the keys that opened it, by slot. */
  declare keys: CreationOptional<Record<string, number>>;
  /** It keeps hashes of names; so many of its entries have one. */
  declare hashed: CreationOptional<boolean>;
  declare namedCount: CreationOptional<number>;
  /** How entries are packed, in words, by the method that is in their rows. */
  declare methods: CreationOptional<Readonly<Record<string, string>>>;
  declare build: CreationOptional<string | null>;
  /** What was found in a file no recipe knows. */
  declare found: CreationOptional<FoundInside | null>;
  /** Entries that cover one of another archive, and markers that say one is gone. */
  declare covers: CreationOptional<number>;
  declare removes: CreationOptional<number>;
  /** What the game changed in it since the build before. */
  declare news: CreationOptional<ArchiveNews | null>;
  /** The game itself has no such file: it is to be new in it. */
  declare isNew: CreationOptional<boolean>;
  /** The language of a table of texts; of what was scanned before that was kept it is not known. */
  declare locale: CreationOptional<string | null>;
}

export class ScanModel extends Model<InferAttributes<ScanModel>, InferCreationAttributes<ScanModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare scannedAt: CreationOptional<Date>;
  declare build: string | null;
  declare files: number;
  declare bytes: number;
  declare news: ScanNews;
  declare trouble: Fault[];
}

export class NameListModel extends Model<InferAttributes<NameListModel>, InferCreationAttributes<NameListModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare name: string;
  declare kind: 'list' | 'pattern' | 'harvest';
  /** The blob of a list, the text of a pattern. */
  declare source: string;
  declare tested: CreationOptional<number>;
  declare matched: CreationOptional<number>;
  /** Lines that were skipped, and names that are not certain. */
  declare notes: CreationOptional<Note[]>;
  declare createdAt: CreationOptional<Date>;
}

export class KeyModel extends Model<InferAttributes<KeyModel>, InferCreationAttributes<KeyModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare kind: string;
  declare mask: string;
  /** The key, sealed with the secret file. */
  declare sealed: Buffer;
  /** Tells two keys apart without opening them. */
  declare fingerprint: string;
  /** What the line it stood in called it. */
  declare name: CreationOptional<string | null>;
  /** The build of the game it was added for. */
  declare build: CreationOptional<string | null>;
  declare createdAt: CreationOptional<Date>;
}

export class TrayItemModel extends Model<InferAttributes<TrayItemModel>, InferCreationAttributes<TrayItemModel>> {
  declare gameId: number;
  declare path: string;
  declare addedAt: CreationOptional<Date>;
}

export class ChangeModel extends Model<InferAttributes<ChangeModel>, InferCreationAttributes<ChangeModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare path: string;
  declare kind: string;
  declare blob: string;
  declare size: number;
  declare fileName: string;
  declare undone: CreationOptional<boolean>;
  /** The change this one goes with. */
  declare withId: CreationOptional<number | null>;
  /** The drop it came with. */
  declare dropId: CreationOptional<number | null>;
  /** The drop whose change took the place of this one. */
  declare supersededBy: CreationOptional<number | null>;
  /** How the file was matched to its entry. */
  declare matchedBy: CreationOptional<Note | null>;
  /** What was done to make it fit. */
  declare fitNotes: CreationOptional<readonly Note[]>;
  declare note: CreationOptional<string>;
  /** The blob of the file as it was brought. */
  declare given: CreationOptional<string | null>;
  declare fitOptions: CreationOptional<FitOptions>;
  /** First and last sample of a loop that is another than the original's. */
  declare loop: CreationOptional<readonly [number, number] | null>;
  declare action: CreationOptional<ChangeAction>;
  /** The archive a new entry goes into, by its path in the game's folder. */
  declare intoArchive: CreationOptional<string | null>;
  /** The blob of what the game had when the change was made. */
  declare base: CreationOptional<string | null>;
  declare status: CreationOptional<ChangeStatus>;
  /** The mod it came with. */
  declare modId: CreationOptional<number | null>;
  declare createdAt: CreationOptional<Date>;
}

/** What someone else made, as they shared it. */
export class ModModel extends Model<InferAttributes<ModModel>, InferCreationAttributes<ModModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare name: string;
  declare version: CreationOptional<string>;
  declare author: CreationOptional<string>;
  declare notes: CreationOptional<string>;
  declare licence: CreationOptional<string>;
  /** The blob of the mod file, and of the picture in it. */
  declare file: string;
  declare picture: CreationOptional<string | null>;
  declare madeFor: CreationOptional<string | null>;
  /** Of two that change the same, the later one holds. */
  declare position: number;
  declare enabled: CreationOptional<boolean>;
  /** Why changes in it could not be taken in. */
  declare leftOut: CreationOptional<readonly Fault[]>;
  declare createdAt: CreationOptional<Date>;
}

/** A routine: steps that were done once and can be repeated. */
export class RoutineModel extends Model<InferAttributes<RoutineModel>, InferCreationAttributes<RoutineModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare name: string;
  declare steps: readonly RoutineStep[];
  declare createdAt: CreationOptional<Date>;
}

/** Files that were dropped together. */
export class DropModel extends Model<InferAttributes<DropModel>, InferCreationAttributes<DropModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare createdAt: CreationOptional<Date>;
  /** When its files were handed to the worker. */
  declare startedAt: CreationOptional<Date | null>;
  /** When the last of them came. */
  declare touchedAt: CreationOptional<Date>;
}

/** A dropped file that is no change yet. */
export class IncomingFileModel extends Model<
  InferAttributes<IncomingFileModel>,
  InferCreationAttributes<IncomingFileModel>
> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare dropId: number;
  declare name: string;
  declare blob: string | null;
  /** The entry that takes the place of another; none where a file does. */
  declare fromPath: CreationOptional<string | null>;
  declare size: number;
  declare kind: KindName;
  declare state: CreationOptional<IncomingFileState>;
  declare path: CreationOptional<string | null>;
  declare matchedBy: CreationOptional<Note | null>;
  declare choices: CreationOptional<readonly MatchChoice[]>;
  declare fault: CreationOptional<Fault | null>;
  declare fitOptions: CreationOptional<FitOptions>;
  declare createdAt: CreationOptional<Date>;
}

export class BuildModel extends Model<InferAttributes<BuildModel>, InferCreationAttributes<BuildModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare number: number;
  declare how: How;
  /** Archives that were built in another way, by their paths in the game's folder. */
  declare archives: CreationOptional<BuildWays['archives']>;
  declare files: BuildFile[];
  /** Changes in it, without those that go with another. */
  declare changeCount: CreationOptional<number>;
  declare proof: Proof | null;
  declare report: JudgeReport | null;
  declare createdAt: CreationOptional<Date>;
}

/** A change that went into a build. There may be very many: they are written by `keepBuildChanges` of `put-back`. */
export class BuildChangeModel extends Model<InferAttributes<BuildChangeModel>> {
  declare buildId: number;
  declare position: number;
  declare path: string;
  declare blob: string;
  declare size: number | null;
  declare fileName: string | null;
  declare kind: string | null;
  declare action: ChangeAction | null;
  declare intoArchive: string | null;
  declare loop: readonly [number, number] | null;
  declare base: string | null;
  declare mod: string | null;
  declare beside: boolean;
}

export class InstallModel extends Model<InferAttributes<InstallModel>, InferCreationAttributes<InstallModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number;
  declare buildId: number;
  declare state: 'putting-in' | 'in' | 'taking-out' | 'out';
  declare files: InstallFile[];
  /** Files that are as something else left them, and stay so. */
  declare leftAlone: CreationOptional<readonly string[]>;
  declare putInAt: CreationOptional<Date>;
  declare takenOutAt: CreationOptional<Date | null>;
}

export class RunModel extends Model<InferAttributes<RunModel>, InferCreationAttributes<RunModel>> {
  declare id: CreationOptional<number>;
  declare gameId: number | null;
  declare kind: RunKind;
  declare title: string;
  declare state: CreationOptional<RunState>;
  declare input: object;
  declare done: CreationOptional<number>;
  declare total: CreationOptional<number>;
  declare unit: CreationOptional<string>;
  declare log: CreationOptional<LogLine[]>;
  declare result: CreationOptional<object | null>;
  declare fault: CreationOptional<Fault | null>;
  declare heartbeat: CreationOptional<Date | null>;
  declare createdAt: CreationOptional<Date>;
  declare startedAt: CreationOptional<Date | null>;
  declare endedAt: CreationOptional<Date | null>;
}

// Sequelize writes into the objects it is given, so every column gets one of its own.
const id = () => ({ type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true });
const integer = () => ({ type: DataTypes.INTEGER, allowNull: false });
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const json = () => ({ type: DataTypes.JSONB, allowNull: false });
const now = () => ({ type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW });
const maybe = <T extends { allowNull: boolean }>(column: T): T => ({ ...column, allowNull: true });
/** bigint columns come back as texts; sizes stay below 2^53. */
const bytes = (name: string) => ({
  type: DataTypes.BIGINT,
  allowNull: false,
  defaultValue: 0,
  get(this: Model): number {
    return Number(this.getDataValue(name));
  },
});

/** Binds the models to a connection; migrations, not models, make the tables. */
export function defineModels(sequelize: Sequelize): void {
  GameModel.init(
    {
      id: id(),
      name: text(),
      folder: text(),
      entryCount: { ...integer(), defaultValue: 0 },
      catalogue: { ...integer(), defaultValue: 0 },
      linksFor: maybe(integer()),
      recordsFor: maybe(integer()),
      createdAt: now(),
      scannedAt: { type: DataTypes.DATE },
      build: maybe(text()),
      buildFrom: maybe(text()),
      profile: { ...json(), defaultValue: {} },
      recipesSeen: maybe(text()),
      forgottenAt: { type: DataTypes.DATE },
      ways: maybe(json()),
    },
    { sequelize, tableName: 'games' },
  );
  ArchiveModel.init(
    {
      id: id(),
      gameId: integer(),
      path: text(),
      state: text(),
      recipe: maybe(text()),
      title: maybe(text()),
      slots: json(),
      fault: maybe(json()),
      size: bytes('size'),
      modified: { type: DataTypes.DOUBLE, allowNull: false },
      entryCount: { ...integer(), defaultValue: 0 },
      position: { ...integer(), defaultValue: 0 },
      proof: maybe(json()),
      bands: { ...json(), defaultValue: [] },
      fits: { ...json(), defaultValue: [] },
      chosen: maybe(text()),
      volumes: { ...json(), defaultValue: [] },
      parentId: maybe(integer()),
      parentN: maybe(integer()),
      fingerprint: maybe(text()),
      readWith: maybe(text()),
      keys: { ...json(), defaultValue: {} },
      hashed: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      namedCount: { ...integer(), defaultValue: 0 },
      methods: { ...json(), defaultValue: {} },
      build: maybe(text()),
      covers: { ...integer(), defaultValue: 0 },
      removes: { ...integer(), defaultValue: 0 },
      found: { type: DataTypes.JSONB },
      isNew: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      locale: maybe(text()),
      news: maybe(json()),
    },
    { sequelize, tableName: 'archives' },
  );
  ScanModel.init(
    {
      id: id(),
      gameId: integer(),
      scannedAt: now(),
      build: maybe(text()),
      files: integer(),
      bytes: bytes('bytes'),
      news: json(),
      trouble: json(),
    },
    { sequelize, tableName: 'scans' },
  );
  NameListModel.init(
    {
      id: id(),
      gameId: integer(),
      name: text(),
      kind: text(),
      source: text(),
      tested: bytes('tested'),
      matched: { ...integer(), defaultValue: 0 },
      notes: { ...json(), defaultValue: [] },
      createdAt: now(),
    },
    { sequelize, tableName: 'name_lists' },
  );
  KeyModel.init(
    {
      id: id(),
      gameId: integer(),
      kind: text(),
      mask: text(),
      sealed: { type: DataTypes.BLOB, allowNull: false },
      fingerprint: text(),
      name: maybe(text()),
      build: maybe(text()),
      createdAt: now(),
    },
    { sequelize, tableName: 'keys' },
  );
  TrayItemModel.init(
    { gameId: { ...integer(), primaryKey: true }, path: { ...text(), primaryKey: true }, addedAt: now() },
    { sequelize, tableName: 'tray_items' },
  );
  ChangeModel.init(
    {
      id: id(),
      gameId: integer(),
      path: text(),
      kind: text(),
      blob: text(),
      size: bytes('size'),
      fileName: text(),
      undone: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      withId: maybe(integer()),
      dropId: maybe(integer()),
      supersededBy: maybe(integer()),
      matchedBy: maybe(json()),
      fitNotes: { ...json(), defaultValue: [] },
      note: { ...text(), defaultValue: '' },
      given: maybe(text()),
      loop: maybe(json()),
      fitOptions: { ...json(), defaultValue: {} },
      action: { ...text(), defaultValue: 'replace' },
      intoArchive: maybe(text()),
      base: maybe(text()),
      status: { ...text(), defaultValue: 'fits' },
      modId: maybe(integer()),
      createdAt: now(),
    },
    { sequelize, tableName: 'changes' },
  );
  ModModel.init(
    {
      id: id(),
      gameId: integer(),
      name: text(),
      version: { ...text(), defaultValue: '' },
      author: { ...text(), defaultValue: '' },
      notes: { ...text(), defaultValue: '' },
      licence: { ...text(), defaultValue: '' },
      file: text(),
      picture: maybe(text()),
      madeFor: maybe(text()),
      position: integer(),
      enabled: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: true },
      leftOut: { ...json(), defaultValue: [] },
      createdAt: now(),
    },
    { sequelize, tableName: 'mods' },
  );
  RoutineModel.init(
    { id: id(), gameId: integer(), name: text(), steps: json(), createdAt: now() },
    { sequelize, tableName: 'routines' },
  );
  DropModel.init(
    { id: id(), gameId: integer(), createdAt: now(), startedAt: { type: DataTypes.DATE }, touchedAt: now() },
    { sequelize, tableName: 'drops' },
  );
  IncomingFileModel.init(
    {
      id: id(),
      gameId: integer(),
      dropId: integer(),
      name: text(),
      blob: maybe(text()),
      fromPath: maybe(text()),
      size: bytes('size'),
      kind: text(),
      state: { ...text(), defaultValue: 'waiting' },
      path: maybe(text()),
      matchedBy: maybe(json()),
      choices: { ...json(), defaultValue: [] },
      fault: maybe(json()),
      fitOptions: { ...json(), defaultValue: {} },
      createdAt: now(),
    },
    { sequelize, tableName: 'incoming_files' },
  );
  BuildModel.init(
    {
      id: id(),
      gameId: integer(),
      number: integer(),
      how: text(),
      archives: { ...json(), defaultValue: {} },
      files: json(),
      changeCount: { ...integer(), defaultValue: 0 },
      proof: maybe(json()),
      report: maybe(json()),
      createdAt: now(),
    },
    { sequelize, tableName: 'builds' },
  );
  BuildChangeModel.init(
    {
      buildId: { ...integer(), primaryKey: true },
      position: { ...integer(), primaryKey: true },
      path: text(),
      blob: text(),
      size: maybe(bytes('size')),
      fileName: maybe(text()),
      kind: maybe(text()),
      action: maybe(text()),
      intoArchive: maybe(text()),
      loop: maybe(json()),
      base: maybe(text()),
      mod: maybe(text()),
      beside: { type: DataTypes.BOOLEAN, allowNull: false },
    },
    { sequelize, tableName: 'build_changes' },
  );
  InstallModel.init(
    {
      id: id(),
      gameId: integer(),
      buildId: integer(),
      state: text(),
      files: json(),
      leftAlone: { ...json(), defaultValue: [] },
      putInAt: now(),
      takenOutAt: { type: DataTypes.DATE },
    },
    { sequelize, tableName: 'installs' },
  );
  RunModel.init(
    {
      id: id(),
      gameId: maybe(integer()),
      kind: text(),
      title: text(),
      state: { ...text(), defaultValue: 'waiting' },
      input: json(),
      done: bytes('done'),
      total: bytes('total'),
      unit: { ...text(), defaultValue: 'entries' },
      log: { ...json(), defaultValue: [] },
      result: maybe(json()),
      fault: maybe(json()),
      heartbeat: { type: DataTypes.DATE },
      createdAt: now(),
      startedAt: { type: DataTypes.DATE },
      endedAt: { type: DataTypes.DATE },
    },
    { sequelize, tableName: 'runs' },
  );
}
