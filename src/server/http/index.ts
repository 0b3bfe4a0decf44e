export {
  answer,
  answerBytes,
  answerFile,
  answerPart,
  answerStretch,
  answerText,
  bodyChunks,
  faultResponse,
  numberParam,
} from './answer';
export { answerLevel } from './level';
