/** How entries are packed: by methods, or by the same steps for all. */
import type { Names } from '../formula/names';
import { truthy, type Scope } from '../formula/value';
import type { EntriesRule, Formula, Method, Step } from '../model';
import { compileSteps } from './compile-step';
import { invalid, type Setting } from './setting';

/** How many `when` steps a chain can have: the set of those that held is kept as bits of a number. */
const MAX_STEPS = 16;

type Packing = Pick<EntriesRule, 'methodField' | 'methodOf' | 'stepsOf' | 'rawOf' | 'methods' | 'hasOneMethod'>;

/** The steps of a chain that are no compression, as text. */
function ciphersOf(steps: readonly Step[]): string {
  return steps
    .filter(({ codec }) => codec.family !== 'compression')
    .map(({ text }) => text)
    .join();
}

/** `method: row.how` with `methods: { 0: [], 1: zlib }`: a field names the chain. */
export function methodPacking(setting: Setting, names: Names, method: Formula | undefined, line: number): Packing {
  const table = setting.parsed.recipe.entries.methods!;
  if (method === undefined) throw invalid(line, 'methods need method: the field that chooses one', 'method: row.how');
  const chains = new Map<string, readonly Step[]>();
  for (const [key, steps] of Object.entries(table)) {
    const stepLine = setting.parsed.lineOf(['entries', 'methods', key]);
    chains.set(
      key,
      compileSteps(steps, () => stepLine, names, setting),
    );
  }
  const asMethod = (key: string): Method => (/^\d+$/.test(key) ? Number(key) : key);
  return {
    methodOf: (scope) => method.evaluate(scope),
    methodField: method.rowField,
    stepsOf: (value) => chains.get(String(typeof value === 'boolean' ? Number(value) : value)),
    rawOf: (value) => {
      const ciphers = ciphersOf(chains.get(String(value)) ?? []);
      return [...chains]
        .filter(([, steps]) => steps.map(({ text }) => text).join() === ciphers)
        .map(([key]) => asMethod(key));
    },
    methods: [...chains.keys()].map(asMethod),
    hasOneMethod: false,
  };
}

/** `through: [{ when: …, use: zlib }]`: each step has its own condition. */
export function stepPacking(setting: Setting, names: Names): Packing {
  const { parsed } = setting;
  const texts = parsed.recipe.entries.through ?? [];
  if (texts.length > MAX_STEPS)
    throw invalid(parsed.lineOf(['entries', 'through']), `a chain has at most ${MAX_STEPS} steps`);
  const steps = compileSteps(texts, (i) => parsed.lineOf(['entries', 'through', i]), names, setting);
  const methodOf = (scope: Scope) =>
    steps.reduce(
      (mask, { when }, i) => (when === undefined || truthy(when.evaluate(scope)) ? mask | (1 << i) : mask),
      0,
    );
  // Conditions are mostly about compression: a chain without it still has its ciphers.
  const compressions = steps.reduce(
    (mask, { when, codec }, i) => (when !== undefined && codec.family === 'compression' ? mask | (1 << i) : mask),
    0,
  );
  const all = (1 << steps.length) - 1;
  return {
    methodOf,
    methodField: undefined,
    stepsOf: (mask) => steps.filter((_, i) => (Number(mask) & (1 << i)) !== 0),
    rawOf: (mask) => ((Number(mask) & compressions) === 0 ? [] : [Number(mask) & ~compressions]),
    methods: [all],
    hasOneMethod: steps.every(({ when }) => when === undefined),
  };
}
