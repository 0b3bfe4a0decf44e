export { Columns, type Column, type ColumnKind } from './columns';
export { typedText, withCell } from './edit-records';
export { readRecords, textOf } from './read-records';
export { readRecipeRecords, withRecipeCell } from './recipe-records';
export { recordFormat, tableOfPath, type CellValue, type Pointer, type RecordRow, type Scalar } from './records';
export { drawTileMap, guessTileMap, readTileMap, type TileMap, type TileMapRule, type TileSheet } from './tile-map';
