/** Archives of a game. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { ListedBytes } from '../../../core/carve';
import type { Fault } from '../../../core/faults';
import type { Proof } from '../../../core/recipe';
import type { ArchiveNews, ArchiveState, FitAnswer, KindName, StripBand } from '../../shapes';
import { id, integer, text, json, maybe, bytes } from './columns';

/** A file of an archive: its name next to the main one, bytes, and when it was changed, in milliseconds since 1970. */
export interface VolumeFacts {
  readonly name: string;
  readonly size: number;
  readonly modified: number;
}

export interface FoundInside {
  readonly kinds: Readonly<Partial<Record<KindName, number>>>;
  /** Bits a byte of equal stretches. */
  readonly randomness: readonly number[];
  /** The blob of the table that says where everything is; none when nothing was found. */
  readonly table: string | null;
  /** Texts in it that a person took up, wherever else things were found. */
  readonly texts?: readonly ListedBytes[];
  /** It has not been searched yet: only texts were added. */
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
  /** It stores hashes of names; `namedCount` of its entries have a name. */
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

export function defineArchive(sequelize: Sequelize): void {
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
}
