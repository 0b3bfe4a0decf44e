import { answer } from '../../../src/server/http';
import { listPlaces } from '../../../src/server/storage';

export const GET = (request: Request) =>
  answer(async () => listPlaces(new URL(request.url).searchParams.get('under') ?? ''));
