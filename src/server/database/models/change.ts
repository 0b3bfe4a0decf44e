/** Changes, and the files that become changes. */
import {
  DataTypes,
  Model,
  type CreationOptional,
  type InferAttributes,
  type InferCreationAttributes,
  type Sequelize,
} from 'sequelize';
import type { Fault } from '../../../core/faults';
import type { MatchChoice } from '../../../core/game';
import type { Note } from '../../../core/notes';
import type { IncomingFileState, ChangeAction, ChangeStatus, FitOptions, KindName } from '../../shapes';
import { id, integer, text, json, now, maybe, bytes } from './columns';

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

export function defineChange(sequelize: Sequelize): void {
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
}
