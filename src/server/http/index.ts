export { answer, answerBytes, answerFile, answerPart, answerText, bodyChunks, numberParam } from './answer';
export { answerLevel } from './level';
