import { listRecipes } from '../../../src/server/games';
import { answer } from '../../../src/server/http';

export const GET = () => answer(listRecipes);
