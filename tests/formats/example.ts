import { readFileSync } from 'node:fs';
import { join } from 'node:path';

const text = readFileSync(join(__dirname, '..', '..', 'docs', 'recipe-examples.md'), 'utf8');
const blocks = [...text.matchAll(/```yaml\n([\s\S]*?)```/g)].map(([, block]) => block!);

/** The recipe of docs/recipe-examples.md that has this id: the page and the tests share one text. */
export function example(id: string): string {
  const found = blocks.find((block) => block.includes(`recipe: ${id}\n`));
  if (found === undefined) throw new Error(`docs/recipe-examples.md has no recipe ${id}`);
  return found;
}
