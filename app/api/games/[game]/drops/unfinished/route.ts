import { unfinishedImports } from '../../../../../../src/server/changes';
import { route } from '../../../../../../src/server/http';

/** Imports that were cut off while their files were sent. */
export const GET = route('GET games/{game}/drops/unfinished', async ({ params }) => unfinishedImports(params.game));
