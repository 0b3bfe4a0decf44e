export { answer, answerBytes, answerPart, answerText, bodyChunks, numberParam } from './answer';
export { answerLevel } from './level';
