export {
  sayStream,
  streamsOf,
  type Film,
  type FilmPacket,
  type FilmStream,
  type StreamKind,
  type Subtitle,
} from './film';
export { writeIvf, type IvfFacts } from './ivf';
export { filmOf, filmSeconds, packetPath, packetPlace } from './recipe-film';
export { readSubtitles, withEnds, writeSrt, writeVtt } from './subtitles';
