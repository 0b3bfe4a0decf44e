/** Runs. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Fault } from '../../../core/faults';
import type { LogLine, RunKind, RunState } from '../../shapes';
import { id, integer, text, json, now, maybe, bytes } from './columns';

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

export function defineRun(sequelize: Sequelize): void {
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
