import { z } from 'zod';
import { sayIssue } from './schema-issue';

const saysOf = (schema: z.ZodType, value: unknown, reportInput = true): string =>
  sayIssue(schema.safeParse(value, { reportInput }).error!.issues[0]!);

test.each<[z.ZodType, unknown, string]>([
  [z.string(), undefined, 'is missing, and wants text'],
  [z.string(), ['a'], 'wants text, not a list'],
  [z.array(z.string()), {}, 'wants a list, not a map'],
  [z.record(z.string(), z.string()), null, 'wants a map, not nothing'],
  [z.number(), 'a', 'wants a number, not text'],
  [z.number().int(), 1.5, 'wants a whole number, not a number'],
  [z.boolean(), 1, 'wants true or false, not a number'],
  [z.literal(true), 1, 'wants true'],
  [z.enum(['little', 'big']), 'huge', 'wants one of little, big'],
  [z.number().min(1), 0, 'wants at least 1'],
  [z.array(z.string()).min(2), [], 'wants at least 2 items'],
  [z.string().max(1_000), 'a'.repeat(1_001), 'wants at most 1,000 characters'],
  [z.number().multipleOf(4), 5, 'wants a multiple of 4'],
  [z.strictObject({}), { feeld: 1 }, 'has an unknown word: feeld'],
  [z.string().regex(/a/u, 'is not a name'), 'b', 'is not a name'],
  [z.string().regex(/a/u), 'b', 'is not written as it has to be'],
  [z.union([z.string(), z.number()]), true, 'fits none of the ways in which it may be written'],
])('%# says what is wanted', (schema, value, words) => {
  expect(saysOf(schema, value)).toBe(words);
});

test('what was not reported is not called missing', () => {
  expect(saysOf(z.string(), 1, false)).toBe('wants text');
});
