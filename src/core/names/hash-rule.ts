/** How a recipe hashes paths, in a form that can be run millions of times a second. */
import { parseExpression, type Expression } from '../recipe';

export interface HashRule {
  /** The hash by its name, with a seed behind `@` where it has one. */
  readonly hasher: string;
  /** What each ASCII byte of the path becomes before it is hashed. */
  readonly treated: Uint8Array;
  /** Bytes hashed before and after the path. */
  readonly before: Uint8Array;
  readonly after: Uint8Array;
}

interface Treatment {
  readonly treated: Uint8Array;
  readonly before: Uint8Array;
  readonly after: Uint8Array;
}

/**
 * Takes a formula such as `fnv1a-64(replace(lower(entry.path), "/", "\\"))` apart. Undefined where it does more than
 * change single characters and add constants: it is then evaluated as it is, more slowly.
 */
export function hashRule(formula: string): HashRule | undefined {
  const call = parseExpression(formula);
  if (call.kind !== 'call' || call.args.length === 0) return undefined;
  const [of, seed] = call.args;
  if (call.args.length > 2 || Object.keys(call.named).some((name) => name !== 'seed')) return undefined;
  const seedOf = call.named['seed'] ?? seed;
  if (seedOf !== undefined && seedOf.kind !== 'number') return undefined;
  const treatment = treatmentOf(of!);
  if (treatment === undefined) return undefined;
  return { hasher: seedOf === undefined ? call.name : `${call.name}@${seedOf.value}`, ...treatment };
}

const NOTHING = new Uint8Array(0);

function treatmentOf(expression: Expression): Treatment | undefined {
  if (expression.kind === 'member') {
    const isPath = expression.of.kind === 'name' && expression.of.name === 'entry' && expression.name === 'path';
    const same = Uint8Array.from({ length: 128 }, (_, byte) => byte);
    return isPath ? { treated: same, before: NOTHING, after: NOTHING } : undefined;
  }
  if (expression.kind === 'binary' && expression.operator === '+') {
    const { left, right } = expression;
    if (left.kind === 'text') return added(treatmentOf(right), { before: left.value });
    if (right.kind === 'text') return added(treatmentOf(left), { after: right.value });
    return undefined;
  }
  if (expression.kind !== 'call' || expression.args.length === 0) return undefined;
  const inner = treatmentOf(expression.args[0]!);
  if (inner === undefined) return undefined;
  switch (expression.name) {
    case 'lower':
    case 'ascii-lower':
      return mapped(inner, (byte) => (byte >= 0x41 && byte <= 0x5a ? byte + 32 : byte));
    case 'upper':
      return mapped(inner, (byte) => (byte >= 0x61 && byte <= 0x7a ? byte - 32 : byte));
    case 'replace': {
      const [, from, to] = expression.args;
      if (from?.kind !== 'text' || to?.kind !== 'text' || !isAscii(from.value) || !isAscii(to.value)) return undefined;
      const [a, b] = [from.value.charCodeAt(0), to.value.charCodeAt(0)];
      return mapped(inner, (byte) => (byte === a ? b : byte));
    }
    case 'encode':
      // ASCII is the same in all of them but UTF-16.
      return expression.args[1]?.kind === 'name' && !expression.args[1].name.startsWith('utf-16') ? inner : undefined;
    default:
      return undefined;
  }
}

function isAscii(text: string): boolean {
  return text.length === 1 && text.charCodeAt(0) < 128;
}

function mapped({ treated, before, after }: Treatment, change: (byte: number) => number): Treatment {
  return { treated: treated.map(change), before: before.map(change), after: after.map(change) };
}

function added(inner: Treatment | undefined, { before = '', after = '' }): Treatment | undefined {
  if (inner === undefined) return undefined;
  const bytes = (text: string) => new TextEncoder().encode(text);
  return {
    treated: inner.treated,
    before: new Uint8Array([...bytes(before), ...inner.before]),
    after: new Uint8Array([...inner.after, ...bytes(after)]),
  };
}
