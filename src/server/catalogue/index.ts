export { catalogueQuery } from './sets';
export { askCatalogue } from './thread';
