export { answer, answerBytes, answerPart, bodyChunks, numberParam } from './answer';
