import {
  choicesOf,
  convertIncomingFile,
  placeIncomingFile,
  skipFile,
} from '../../../../../../../../src/server/changes';
import { route } from '../../../../../../../../src/server/http';

export const PATCH = route('PATCH games/{game}/drops/{drop}/files/{file}', async ({ params, body }) => {
  const { game, drop, file } = params;
  return 'film' in body
    ? convertIncomingFile(game, drop, file, body.film)
    : placeIncomingFile(game, drop, file, body.path);
});

/** What is to be chosen before a film is converted. */
export const GET = route('GET games/{game}/drops/{drop}/files/{file}', async ({ params: { game, drop, file } }) =>
  choicesOf(game, drop, file),
);

export const DELETE = route('DELETE games/{game}/drops/{drop}/files/{file}', async ({ params: { game, drop, file } }) =>
  skipFile(game, drop, file),
);
