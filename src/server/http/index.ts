export { answer, answerBytes, answerPart, answerText, bodyChunks, numberParam } from './answer';
