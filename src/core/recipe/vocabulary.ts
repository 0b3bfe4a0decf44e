/** Every word of the language with what it means: for completion, hovers and the test of the reference. */
import { codecNames, findCodec, hashFacts } from '../codecs';
import { FILE_FUNCTIONS } from './formula/call-words';
import { PLAIN_FUNCTIONS } from './formula/functions';
import { kindNames } from './kinds/compile-kind';
import { recipeSchema } from './language/schema';

type Word = readonly [word: string, about: string];

export interface Vocabulary {
  /** Words of the schema. */
  readonly words: readonly Word[];
  readonly kinds: readonly Word[];
  readonly functions: readonly Word[];
  readonly steps: readonly Word[];
  readonly hashes: readonly Word[];
}

export function vocabulary(): Vocabulary {
  const functions = { ...FILE_FUNCTIONS, ...PLAIN_FUNCTIONS };
  return {
    words: [...schemaWords()].sort(),
    kinds: kindNames().map((kind) => [kind, 'a kind']),
    functions: Object.entries(functions).map(([name, { call, about }]) => [name, `${call}: ${about}`]),
    steps: codecNames().map((name) => [name, findCodec(name)!.about]),
    hashes: hashFacts().map(({ name, about }) => [name, about]),
  };
}

interface Node {
  readonly def?: Readonly<Record<string, unknown>>;
  readonly description?: string | undefined;
}

/** Walks the checked schema itself, so that no word can be forgotten. */
function schemaWords(): Map<string, string> {
  const words = new Map<string, string>();
  const seen = new Set<unknown>();
  const visit = (value: unknown): void => {
    if (typeof value !== 'object' || value === null || seen.has(value)) return;
    seen.add(value);
    const { def } = value as Node;
    if (def?.['type'] === 'object') {
      for (const [word, inner] of Object.entries(def['shape'] as Readonly<Record<string, Node>>)) {
        const about = descriptionOf(inner);
        if (!words.has(word) || words.get(word) === '') words.set(word, about);
      }
    }
    for (const inner of Object.values(def ?? (value as object))) visit(inner);
  };
  visit(recipeSchema);
  return words;
}

function descriptionOf(node: Node): string {
  const inner = node.def?.['innerType'] as Node | undefined;
  return node.description ?? (inner === undefined ? '' : descriptionOf(inner));
}
