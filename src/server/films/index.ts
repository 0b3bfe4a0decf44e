export { blobIn, fileOf as filmFileIn, filmNamed, filmRoom, filmSource, withTempDir } from './film-source';
export { filmChoices } from './film-choices';
export { filmFacts, filmFile, filmFilePath, filmPoster, filmRun, filmSubtitles } from './film-service';
export { fitFilm, isForFilm, type FittedStream } from './fit-film';
export { fitFilmFile } from './fit-film-file';
export { makeFilm, type FilmChoice } from './make-film';
