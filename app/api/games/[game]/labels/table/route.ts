import { route } from '../../../../../../src/server/http';
import { layLabelTable } from '../../../../../../src/server/labels';

/** Says what a table would name; with `take`, names it. */
export const POST = route('POST games/{game}/labels/table', async ({ params, body }) =>
  layLabelTable(params.game, body),
);
