/** Games and their scans. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Fault } from '../../../core/faults';
import type { GameProfile, ScanNews, WaysAnswer } from '../../shapes';
import { id, integer, text, json, now, maybe, bytes } from './columns';

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

export function defineGame(sequelize: Sequelize): void {
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
}
