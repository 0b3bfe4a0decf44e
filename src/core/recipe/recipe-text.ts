/**
 * A recipe's text: YAML, checked against the schema, with the line of every part kept for messages.
 *
 * One kindness over plain YAML: calls and counts need no quotes anywhere, so `{ as: text(u16, utf-8) }` and
 * `{ holds: row[head.count] }` are read as they look. {@link quoteCalls} adds the quotes YAML wants.
 */
import { isScalar, LineCounter, parseDocument, type Document } from 'yaml';
import { z } from 'zod';
import { FormatError } from '../faults';

const NAME = /^[A-Za-z_][A-Za-z0-9_]*(-[A-Za-z0-9_]+)*$/;
const name = z.string().regex(NAME, 'a name of letters, digits, _ and -');
const scalar = z.union([z.string(), z.number(), z.boolean()]);
/** Formulas are texts; YAML hands over bare numbers and words as they are. */
const formula = scalar.transform(String);

const fieldText = z.strictObject({
  field: name,
  as: formula,
  numbers: z.enum(['little', 'big']).optional(),
  must: z.union([scalar, z.array(scalar).min(1)]).optional(),
  is: formula.optional(),
  new: formula.optional(),
  when: formula.optional(),
  note: z.string().optional(),
});

const steps = z.union([formula.transform((use) => [use]), z.array(formula)]);

const regionText = z.strictObject({
  region: name,
  at: formula.optional(),
  length: formula.optional(),
  plain: formula.optional(),
  through: steps.optional(),
  holds: formula,
  align: z
    .number()
    .int()
    .min(1)
    .max(1 << 30)
    .optional(),
  fill: z.number().int().min(0).max(255).optional(),
});

const entryStep = z.union([
  formula.transform((use) => ({ use, when: undefined })),
  z.strictObject({ use: formula, when: formula.optional() }),
]);

const entriesText = z.strictObject({
  each: formula,
  path: formula,
  at: formula,
  stored: formula,
  size: formula.optional(),
  through: z.array(entryStep).optional(),
  method: formula.optional(),
  methods: z.record(z.string(), steps).optional(),
});

const matchText = z.strictObject({
  at: z.number().int().min(0),
  bytes: z.string().min(1),
});

export const recipeSchema = z.strictObject({
  recipe: name,
  title: z.string().min(1),
  revision: z.number().int().min(1),
  note: z.string().optional(),
  numbers: z.enum(['little', 'big']),
  match: z.union([matchText.transform((one) => [one]), z.array(matchText).min(1)]),
  needs: z.record(name, z.string()).optional(),
  shapes: z.record(name, z.array(fieldText).min(1)),
  regions: z.array(regionText).min(1),
  presents: z.enum(['archive']),
  entries: entriesText,
});

export type RecipeText = z.output<typeof recipeSchema>;
export type FieldText = RecipeText['shapes'][string][number];
export type RegionText = RecipeText['regions'][number];

/** Path of keys and indices into the recipe's YAML. */
export type TextPath = readonly (string | number)[];

export interface ParsedText {
  readonly recipe: RecipeText;
  /** The 1-based line where a part stands; the nearest parent's when the part itself is not written out. */
  lineOf(path: TextPath): number;
}

/** The longest recipe text that is read. */
const MAX_TEXT_LENGTH = 1 << 20;

/**
 * Reads and checks a recipe's text.
 *
 * @throws FormatError `recipe-invalid` with the line
 */
export function parseRecipeText(text: string): ParsedText {
  if (text.length > MAX_TEXT_LENGTH) {
    throw new FormatError({
      code: 'recipe-invalid',
      what: 'the text is too long',
      limit: `${MAX_TEXT_LENGTH} characters`,
    });
  }
  const lines = new LineCounter();
  const document = parseDocument(quoteCalls(text), { lineCounter: lines, maxAliasCount: 0 } as never);
  const [broken] = document.errors;
  if (broken !== undefined) {
    throw new FormatError({
      code: 'recipe-invalid',
      line: broken.linePos?.[0].line ?? 1,
      what: `this is not YAML (${broken.message.split('\n')[0]?.replace(/ at line.*/, '') ?? broken.code})`,
      hint: 'Check the indentation, and that every bracket is closed.',
    });
  }
  const lineOf = (path: TextPath) => lineAt(document, lines, path);
  const checked = recipeSchema.safeParse(document.toJS({ maxAliasCount: 0 }));
  if (!checked.success) throw schemaFault(checked.error.issues[0]!, lineOf);
  return { recipe: checked.data, lineOf };
}

function schemaFault(issue: z.core.$ZodIssue, lineOf: (path: TextPath) => number): FormatError {
  // A union reports every member's complaint; the one that got furthest is what the writer meant.
  let deepest = issue;
  let path = [...issue.path] as (string | number)[];
  while (deepest.code === 'invalid_union' && deepest.errors.length > 0) {
    const inner = deepest.errors.flat().sort((a, b) => b.path.length - a.path.length)[0];
    if (inner === undefined) break;
    path = [...path, ...(inner.path as (string | number)[])];
    deepest = inner;
  }
  const extra = deepest.code === 'unrecognized_keys' ? `: ${deepest.keys.join(', ')}` : '';
  const where = deepest.code === 'unrecognized_keys' ? [...path, deepest.keys[0]!] : path;
  return new FormatError({
    code: 'recipe-invalid',
    line: lineOf(where),
    what: `${path.join('.') || 'the recipe'}: ${deepest.code === 'unrecognized_keys' ? 'unknown word' : deepest.message}${extra}`,
  });
}

function lineAt(document: Document.Parsed, lines: LineCounter, path: TextPath): number {
  for (let length = path.length; length > 0; length--) {
    const parent = document.getIn(path.slice(0, length - 1), true) as
      { items?: { key?: unknown; value?: unknown }[] } | undefined;
    const pair = parent?.items?.find((item) => isScalar(item?.key) && item.key.value === path[length - 1]);
    const node = (pair?.key ?? document.getIn(path.slice(0, length), true)) as
      { range?: [number, number, number] } | undefined;
    if (node?.range) return lines.linePos(node.range[0]).line;
  }
  return 1;
}

/**
 * Puts quotes around every unquoted value that holds a call or an index, so that the commas, colons and brackets in it
 * mean nothing to YAML. Lines stay lines; an expression must not run over several.
 *
 * @example quoteCalls('{ as: text(u16, utf-8), is: entry.path }')  // → '{ as: "text(u16, utf-8)", is: entry.path }'
 */
export function quoteCalls(text: string): string {
  let depth = 0;
  let blockIndent = -1;
  return text
    .split('\n')
    .map((line) => {
      const indent = line.length - line.trimStart().length;
      if (blockIndent >= 0) {
        if (line.trim() === '' || indent > blockIndent) return line;
        blockIndent = -1;
      }
      const result = quoteLine(line, depth);
      depth = result.depth;
      if (depth === 0 && /(^|[\s:-])[|>][+-]?\d*\s*$/.test(line)) blockIndent = indent;
      return result.text;
    })
    .join('\n');
}

function quoteLine(line: string, startDepth: number): { text: string; depth: number } {
  let depth = startDepth;
  let out = '';
  let i = 0;
  while (i < line.length) {
    const char = line[i]!;
    if (char === '#' && (i === 0 || /\s/.test(line[i - 1]!))) return { text: out + line.slice(i), depth };
    if (char === '"' || char === "'") {
      const end = closingQuote(line, i);
      out += line.slice(i, end);
      i = end;
    } else if (char === '{' || char === '[') {
      depth++;
      out += char;
      i++;
    } else if (char === '}' || char === ']') {
      depth = Math.max(0, depth - 1);
      out += char;
      i++;
    } else if (/[\s,:]/.test(char) || (char === '-' && /\s/.test(line[i + 1] ?? ' '))) {
      out += char;
      i++;
    } else {
      const end = scalarEnd(line, i, depth > 0);
      const value = line.slice(i, end).trimEnd();
      out += /[([]/.test(value) ? JSON.stringify(value) : value;
      i += value.length;
    }
  }
  return { text: out, depth };
}

function closingQuote(line: string, start: number): number {
  const quote = line[start];
  for (let i = start + 1; i < line.length; i++) {
    if (line[i] === '\\' && quote === '"') i++;
    else if (line[i] === quote) return i + 1;
  }
  return line.length;
}

/** Where an unquoted scalar ends: brackets of calls and counts inside it are passed over whole. */
function scalarEnd(line: string, start: number, inFlow: boolean): number {
  let open = 0;
  for (let i = start; i < line.length; i++) {
    const char = line[i]!;
    if (open > 0 && (char === '"' || char === "'")) {
      i = closingQuote(line, i) - 1;
    } else if (char === '(' || char === '[') open++;
    else if (char === ')' || char === ']') {
      if (open === 0) return char === ']' && inFlow ? i : i + 1;
      open--;
    } else if (open === 0) {
      if (char === ':' && /\s|$/.test(line[i + 1] ?? ' ')) return i;
      if (char === '#' && /\s/.test(line[i - 1] ?? '')) return i;
      if (inFlow && (char === ',' || char === '}')) return i;
    }
  }
  return line.length;
}
