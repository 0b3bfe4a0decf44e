/** Mods, routines and the tray. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Fault } from '../../../core/faults';
import type { RoutineStep } from '../../shapes';
import { id, integer, text, json, now, maybe } from './columns';

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

export class TrayItemModel extends Model<InferAttributes<TrayItemModel>, InferCreationAttributes<TrayItemModel>> {
  declare gameId: number;
  declare path: string;
  declare addedAt: CreationOptional<Date>;
}

export function defineMod(sequelize: Sequelize): void {
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
  TrayItemModel.init(
    { gameId: { ...integer(), primaryKey: true }, path: { ...text(), primaryKey: true }, addedAt: now() },
    { sequelize, tableName: 'tray_items' },
  );
}
