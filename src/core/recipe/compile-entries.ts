import { compileStep, invalid, type Setting } from './compile-step';
import { compileFormula, truthy, type Names } from './formula';
import type { EntriesRule, Formula, Method, Shape, Step } from './model';
import type { Scope } from './value';

/** How many `when` steps a chain can have: the set of those that held is kept as bits of a number. */
const MAX_STEPS = 16;

/** Where the rows of the entries are: a region, and the fields that lead from it to the list. */
export interface Binding {
  readonly name: string;
  readonly region: number;
  readonly fieldNames: readonly string[];
  readonly shape: Shape;
}

/** Compiles the `entries` part: where each entry's path, bytes and packing are told. */
export function compileEntries(setting: Setting, binding: Binding): EntriesRule {
  const { parsed, regions } = setting;
  const text = parsed.recipe.entries;
  const names: Names = { row: { name: binding.name, shape: binding.shape }, regions, entry: false };
  const formula = (key: 'path' | 'at' | 'stored' | 'size' | 'method') =>
    text[key] === undefined ? undefined : compileFormula(text[key], parsed.lineOf(['entries', key]), names);
  const line = parsed.lineOf(['entries']);
  const fieldPath: number[] = [];
  const top = regions.get(parsed.recipe.regions[binding.region]!.region)!.type;
  let shape: Shape | undefined = top?.kind === 'shape' ? top.shape : undefined;
  for (const name of binding.fieldNames) {
    const index = shape!.fields.findIndex((field) => field.name === name);
    fieldPath.push(index);
    const { type } = shape!.fields[index]!.kind;
    shape = type.kind === 'shape' ? type.shape : undefined;
  }
  const packing =
    text.methods === undefined
      ? stepPacking(setting, names, text.through ?? [])
      : methodPacking(setting, names, formula('method'), line);
  if (text.methods !== undefined && text.through !== undefined)
    throw invalid(line, 'entries have either through or method with methods, not both');
  return {
    line,
    binding: binding.name,
    region: binding.region,
    fieldPath,
    shape: binding.shape,
    path: formula('path')!,
    at: formula('at')!,
    stored: formula('stored')!,
    size: formula('size'),
    ...packing,
  };
}

type Packing = Pick<EntriesRule, 'methodField' | 'methodOf' | 'stepsOf' | 'rawMethods' | 'methods'>;

/** `method: row.how` with `methods: { 0: [], 1: zlib }`: a field names the chain. */
function methodPacking(setting: Setting, names: Names, method: Formula | undefined, line: number): Packing {
  const { parsed } = setting;
  const table = parsed.recipe.entries.methods!;
  if (method === undefined) throw invalid(line, 'methods need method: the field that chooses one', 'method: row.how');
  const chains = new Map<string, readonly Step[]>();
  for (const [key, steps] of Object.entries(table)) {
    const stepLine = parsed.lineOf(['entries', 'methods', key]);
    chains.set(
      key,
      steps.map((step) => compileStep(step, stepLine, names, setting)),
    );
  }
  const asMethod = (key: string): Method => (/^\d+$/.test(key) ? Number(key) : key);
  return {
    methodOf: (scope) => method.evaluate(scope),
    methodField: method.rowField,
    stepsOf: (value) => chains.get(String(value)),
    rawMethods: [...chains].filter(([, steps]) => steps.length === 0).map(([key]) => asMethod(key)),
    methods: [...chains.keys()].map(asMethod),
  };
}

/** `through: [{ when: …, use: zlib }]`: each step has its own condition. */
function stepPacking(
  setting: Setting,
  names: Names,
  texts: readonly { use: string; when?: string | undefined }[],
): Packing {
  const { parsed } = setting;
  if (texts.length > MAX_STEPS)
    throw invalid(parsed.lineOf(['entries', 'through']), `a chain has at most ${MAX_STEPS} steps`);
  const steps = texts.map((text, i) => {
    const line = parsed.lineOf(['entries', 'through', i]);
    return {
      step: compileStep(text.use, line, names, setting),
      when: text.when === undefined ? undefined : compileFormula(text.when, line, names),
    };
  });
  const always = steps.reduce((mask, { when }, i) => (when === undefined ? mask | (1 << i) : mask), 0);
  const methodOf = (scope: Scope) =>
    steps.reduce(
      (mask, { when }, i) => (when === undefined || truthy(when.evaluate(scope)) ? mask | (1 << i) : mask),
      0,
    );
  return {
    methodOf,
    methodField: undefined,
    stepsOf: (mask) => steps.filter((_, i) => (Number(mask) & (1 << i)) !== 0).map(({ step }) => step),
    rawMethods: always === 0 ? [0] : [],
    methods: [always | ((1 << steps.length) - 1)],
  };
}
