import { answerUpload } from '../../../../src/server/sent';

/** Files of games that are sent through the browser, by the tus protocol. */
export const POST = answerUpload;
export const PATCH = answerUpload;
export const HEAD = answerUpload;
export const DELETE = answerUpload;
