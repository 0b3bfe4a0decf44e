export { answer, answerBytes, bodyChunks, numberParam } from './answer';
