import { z } from 'zod';
import { FAULT_CODES, type Fault } from './fault';

const text = z.string().optional();
const number = z.number().optional();

/** A fault as it comes from a database or over the wire. */
export const faultSchema = z.object({
  code: z.enum(FAULT_CODES),
  what: text,
  file: text,
  recipe: text,
  line: number,
  region: text,
  field: text,
  entry: text,
  offset: number,
  within: text,
  expected: text,
  found: text,
  limit: text,
  hint: text,
}) as unknown as z.ZodType<Fault>;
