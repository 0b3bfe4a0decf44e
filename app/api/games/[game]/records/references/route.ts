import { route } from '../../../../../../src/server/http';
import { setReference } from '../../../../../../src/server/records';

/** Declares what a field refers to; null takes it back. */
export const PUT = route('PUT games/{game}/records/references', async ({ params, body }) =>
  setReference(params.game, body),
);
