import { z } from 'zod';
import { note } from './note';

const LINE_ENDS = { '\n': 'LF', '\r\n': 'CR LF', '\r': 'CR' } as const;

export const TEXT_NOTES = {
  'text-encoding': note(
    { encoding: z.string(), hasMark: z.boolean() },
    ({ encoding, hasMark }) => `written in ${encoding}${hasMark ? ' with a byte order mark' : ''}, like the original`,
  ),
  'text-line-ends': note(
    { lineEnds: z.enum(['\n', '\r\n', '\r']) },
    ({ lineEnds }) => `lines end in ${LINE_ENDS[lineEnds]}, like the original`,
  ),
  'messages-compiled': note({}, () => 'compiled from PO to MO'),
  'record-dangling': note(
    { at: z.string(), value: z.string(), to: z.string() },
    ({ at, value, to }) => `${at}: ${to} has no value ${value}`,
  ),
} as const;
