import { openApi } from '../../../src/server/http';

/** Describes every route. */
export const GET = () => Response.json(openApi());
