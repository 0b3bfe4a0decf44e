export {
  Catalogue,
  CATALOGUE_SORTS,
  type CatalogueEntry,
  type CataloguePage,
  type CatalogueQuery,
  type CatalogueSort,
} from './catalogue';
export { ColumnsBuilder, DELETED, NAMED, WINS, type CatalogueRow, type Columns } from './columns';
export { type FolderCount } from './folders';
export { type FolderShare, type Overview, type Place, type Share } from './overview';
export { setName } from './matching';
export { parseSearch, type PathSet } from './search-line';
export { SEARCH_WORDS } from './words';
