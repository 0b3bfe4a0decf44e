/** Name lists and keys of a game. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Note } from '../../../core/notes';
import { id, integer, json, text, now, maybe, bytes } from './columns';

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
  /** Distinguishes two keys without unsealing them. */
  declare fingerprint: string;
  /** What the line it stood in called it. */
  declare name: CreationOptional<string | null>;
  /** The build of the game it was added for. */
  declare build: CreationOptional<string | null>;
  declare createdAt: CreationOptional<Date>;
}

export function defineNamesAndKeys(sequelize: Sequelize): void {
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
}
