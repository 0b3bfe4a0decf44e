import { codecNames, findCodec, KEY_KINDS, type KeyKind } from '../codecs';
import { FormatError } from '../faults';
import { parseExpression, type Expression } from './expression';
import { compileFormula, type Names } from './formula';
import type { Formula, Shape, Step } from './model';
import type { ParsedText } from './recipe-text';
import type { Value } from './value';

/** What every part of a recipe is compiled against. */
export interface Setting {
  readonly parsed: ParsedText;
  readonly shapes: ReadonlyMap<string, Shape>;
  readonly regions: Names['regions'];
  readonly slots: ReadonlyMap<string, KeyKind>;
}

export function invalid(line: number, what: string, expected?: string): FormatError {
  return new FormatError({ code: 'recipe-invalid', line, what, ...(expected === undefined ? {} : { expected }) });
}

/** Runs `work`; a fault of it gets the line of the recipe. */
export function inLine<T>(line: number, work: () => T): T {
  try {
    return work();
  } catch (error) {
    throw error instanceof FormatError ? error.with({ line }) : error;
  }
}

/**
 * Compiles one step of a `through` chain, such as `aes-256-cbc(content, iv: head.iv)`.
 *
 * @throws FormatError `recipe-invalid`
 */
export function compileStep(text: string, line: number, names: Names, setting: Setting): Step {
  const expression = inLine(line, () => parseExpression(text));
  const call: Extract<Expression, { kind: 'call' }> | undefined =
    expression.kind === 'call'
      ? expression
      : expression.kind === 'name'
        ? { kind: 'call', name: expression.name, args: [], named: {} }
        : undefined;
  const codec = call === undefined ? undefined : findCodec(call.name);
  if (call === undefined || codec === undefined)
    throw invalid(line, `there is no step ${text}`, `one of ${codecNames().join(', ')}`);
  const params: Record<string, Formula> = {};
  const slots: string[] = [];
  if (call.args.length > codec.params.length) throw invalid(line, `${codec.name} takes ${codec.params.length} values`);
  const unknown = Object.keys(call.named).find((key) => !codec.params.some((spec) => spec.name === key));
  if (unknown !== undefined)
    throw invalid(
      line,
      `${codec.name} has no ${unknown}`,
      `one of ${codec.params.map((spec) => spec.name).join(', ')}`,
    );
  for (const [i, spec] of codec.params.entries()) {
    const given = call.args[i] ?? call.named[spec.name];
    if (given === undefined) {
      if (spec.otherwise === undefined)
        throw invalid(
          line,
          `${codec.name} needs ${spec.name}`,
          `${codec.name}(${codec.params.map((one) => one.name).join(', ')})`,
        );
      continue;
    }
    if (spec.type === 'key') {
      const slot = given.kind === 'name' ? given.name : '';
      const kind = setting.slots.get(slot);
      if (kind === undefined)
        throw invalid(
          line,
          `${codec.name} wants a key slot`,
          `one of needs: ${[...setting.slots.keys()].join(', ') || 'none is declared'}`,
        );
      if (spec.length !== undefined && KEY_KINDS[kind] !== spec.length)
        throw invalid(line, `${codec.name} wants a key of ${spec.length} bytes, and ${slot} is ${kind}`);
      slots.push(slot);
      params[spec.name] = keyFormula(slot, line);
    } else if (spec.type === 'word') {
      const word = given.kind === 'name' || given.kind === 'text' ? ('name' in given ? given.name : given.value) : '';
      if (!spec.words!.includes(word))
        throw invalid(line, `${codec.name} knows no ${spec.name} ${word}`, `one of ${spec.words!.join(', ')}`);
      params[spec.name] = constantFormula(word, line);
    } else {
      params[spec.name] = compileFormula(argumentText(text, i, spec.name), line, names);
    }
  }
  return { text, line, codec, params, slots };
}

/** The text of one argument of a call, by position or by name. */
function argumentText(call: string, index: number, name: string): string {
  const inner = call.slice(call.indexOf('(') + 1, call.lastIndexOf(')'));
  const parts: string[] = [];
  let depth = 0;
  let start = 0;
  for (let i = 0; i <= inner.length; i++) {
    const char = inner[i];
    if (char === '(' || char === '[') depth++;
    else if (char === ')' || char === ']') depth--;
    else if (char === undefined || (char === ',' && depth === 0)) {
      parts.push(inner.slice(start, i).trim());
      start = i + 1;
    }
  }
  const named = parts.find((part) => new RegExp(`^${name}\\s*:`).test(part));
  return named === undefined ? parts[index]! : named.slice(named.indexOf(':') + 1).trim();
}

const NO_USES = {
  layout: false,
  elsewhere: false,
  siblings: new Set<number>(),
  content: [],
  regionBytes: new Set<number>(),
  regions: new Set<number>(),
};

function keyFormula(slot: string, line: number): Formula {
  return { text: slot, line, uses: NO_USES, evaluate: (scope) => scope.file.key(slot) };
}

function constantFormula(value: Value, line: number): Formula {
  return { text: String(value), line, uses: NO_USES, evaluate: () => value };
}
