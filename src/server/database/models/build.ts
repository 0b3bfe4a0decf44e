/** Builds, and what of them is in the folder of the game. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Proof } from '../../../core/recipe';
import type { BuildFile, BuildWays, ChangeAction, How, InstallFile, JudgeReport } from '../../shapes';
import { id, integer, text, json, now, maybe, bytes } from './columns';

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

export function defineBuild(sequelize: Sequelize): void {
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
}
