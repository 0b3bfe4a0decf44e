export {
  answer,
  answerBytes,
  answerFile,
  answerPart,
  answerText,
  bodyChunks,
  faultResponse,
  numberParam,
} from './answer';
export { answerLevel } from './level';
