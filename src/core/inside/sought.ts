/** What may be looked for inside entries, as a page or a person says it. */
import { z } from 'zod';

export const TEXT_ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252', 'shift-jis'] as const;
export const NUMBER_FORMS = ['u8', 'u16', 'u32', 'u64', 'f32', 'f64'] as const;

/** What someone looks for. */
export const soughtSchema = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('text'), text: z.string().min(1).max(500), exact: z.boolean().default(false) }),
  z.strictObject({
    is: z.literal('number'),
    number: z.number().finite(),
    forms: z.array(z.enum(NUMBER_FORMS)).min(1).max(NUMBER_FORMS.length),
  }),
  z.strictObject({ is: z.literal('bytes'), bytes: z.string().min(1).max(3000) }),
]);
export type Sought = z.output<typeof soughtSchema>;
