/** Every archetype of the worked examples, and every archive of the demo game, written by a second hand. */
import { checkFormat } from './check-format';
import type { SampleFormat } from './sample';
import * as demo from './samples-demo';
import * as packing from './samples-packing';
import * as tables from './samples-tables';
import * as trees from './samples-trees';

const FORMATS: readonly SampleFormat[] = [tables, trees, packing, demo].flatMap((module) => Object.values(module));

describe.each(FORMATS.map((format) => [format.name, format] as const))('%s', (_, format) => checkFormat(format));
