export { answerUpload } from './sent-games';
