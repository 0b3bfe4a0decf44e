export { recordsRun, startRecords } from './index-run';
export { setTileMap, tileMapOf, tileMapPicture } from './tile-maps';
export { listRecords, listRecordTables, setCell, setReference, whereIs } from './record-service';
