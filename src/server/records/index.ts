export { recordsRun, startRecords } from './index-run';
export { setTileMap, tileMapOf, tileMapPicture } from './tile-maps';
export { withValue } from './read';
export { checkReference, listRecords, listRecordTables, setReference, whereIs } from './record-service';
export { danglingIn } from './tables';
