export { FilmFields } from './FilmFields';
export { filmView } from './film-view';
