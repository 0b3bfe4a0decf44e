export { recordsRun, startRecords } from './index-run';
export { listRecords, listRecordTables, setCell, setReference, whereIs } from './record-service';
