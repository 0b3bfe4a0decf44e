/** The tables as models. Entries have none: they are written with COPY and read with SQL of their own. */
import type { Sequelize } from 'sequelize';
import { defineGame } from './game';
import { defineArchive } from './archive';
import { defineNamesAndKeys } from './names-and-keys';
import { defineChange } from './change';
import { defineMod } from './mod';
import { defineBuild } from './build';
import { defineRun } from './run';

export { GameModel, ScanModel } from './game';
export { ArchiveModel, type VolumeFacts, type FoundInside } from './archive';
export { NameListModel, KeyModel } from './names-and-keys';
export { ChangeModel, DropModel, IncomingFileModel } from './change';
export { ModModel, RoutineModel, TrayItemModel } from './mod';
export { BuildModel, BuildChangeModel, InstallModel } from './build';
export { RunModel } from './run';

/** Binds the models to a connection; migrations, not models, make the tables. */
export function defineModels(sequelize: Sequelize): void {
  for (const define of [defineGame, defineArchive, defineNamesAndKeys, defineChange, defineMod, defineBuild, defineRun])
    define(sequelize);
}
