import { isBuilding } from '../env';
import { database } from './connection';
import { defineModels } from './models';

export { database, withConnection } from './connection';
export { migrate } from './migrate';
export {
  ArchiveModel,
  IncomingFileModel,
  BuildChangeModel,
  BuildModel,
  ChangeModel,
  DropModel,
  GameModel,
  InstallModel,
  KeyModel,
  ModModel,
  NameListModel,
  RoutineModel,
  RunModel,
  ScanModel,
  TrayItemModel,
  type FoundInside,
  type VolumeFacts,
} from './models';

// Next loads this module once for each bundle; every copy of the models is bound to the one connection.
if (!isBuilding()) defineModels(database());
