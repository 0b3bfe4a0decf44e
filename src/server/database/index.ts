export { database, onePerProcess, withConnection } from './connection';
export { migrate } from './migrate';
export {
  ArchiveModel,
  BuildModel,
  ChangeModel,
  GameModel,
  InstallModel,
  KeyModel,
  RunModel,
  TrayItemModel,
} from './models';
