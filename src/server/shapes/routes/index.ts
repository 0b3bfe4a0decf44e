/** Every route of the server that answers in JSON or with a file. */
import { putBackRoutes } from './put-back';
import { openRoutes } from './open';
import { changeRoutes } from './change';
import { findRoutes } from './find';
import { wordsAndRecordsRoutes } from './words-and-records';
import { takeOutRoutes } from './take-out';
import { applicationRoutes } from './application';

export const ROUTES = {
  ...putBackRoutes,
  ...openRoutes,
  ...changeRoutes,
  ...findRoutes,
  ...wordsAndRecordsRoutes,
  ...takeOutRoutes,
  ...applicationRoutes,
} as const;
export type RouteKey = keyof typeof ROUTES;
export { type ParamsOf, type RouteContract, TEXTS } from './contract';
