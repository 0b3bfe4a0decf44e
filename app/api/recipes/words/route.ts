import { answer } from '../../../../src/server/http';
import { vocabulary } from '../../../../src/server/recipes';

export const GET = () => answer(async () => vocabulary());
