/** What every part of a recipe is made of. */
import { z } from 'zod';

const NAME = /^[A-Za-z_][A-Za-z0-9_]*(-[A-Za-z0-9_]+)*$/;
export const name = z.string().regex(NAME, 'is not a name of letters, digits, _ and -');

export const scalar = z.union([z.string(), z.number(), z.boolean()]);
/** Formulas are texts; YAML hands over bare numbers and words as they are. */
export const formula = scalar.transform(String);
export const whole = z.number().int().min(0);
