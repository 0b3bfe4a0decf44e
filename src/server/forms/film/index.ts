export { blobIn, fileOf as filmFileIn, filmNamed, filmSource, withTempDir } from './film-source';
export { filmChoices } from './film-choices';
export { filmForm } from './film-form';
export { filmFile, filmFilePath, filmRun, filmSubtitles } from './film-service';
export { fitFilm, isForFilm, type FittedStream } from './fit-film';
export { fitFilmFile } from './fit-film-file';
