import { route } from '../../../src/server/http';
import { listPlaces } from '../../../src/server/storage';

export const GET = route('GET places', async ({ query }) => listPlaces(query.under));
