import { requireGate } from './is-gated';

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
  stretchOf,
} from './answer';
export { answerLevel } from './level';
export { openApi } from './openapi';
export { route } from './route';

requireGate();
