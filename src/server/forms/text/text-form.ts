/** Texts: words that a game shows, and records such as JSON. */
import { kindOf } from '../../../core/game';
import { decodeText, textFormOf } from '../../../core/text';
import type { Glance } from '../../shapes';
import type { DroppedFile, Fitted, ServerForm, Subject } from '../form';
import { fitText } from './fit-text';

export const wordsForm: ServerForm = {
  kind: 'words',
  is: ({ kind }) => kind === 'words',
  async read({ bytes }) {
    return { facts: null, expects: [`Text in ${textFormOf(await bytes()).encoding.toUpperCase()}.`] };
  },
  glance: firstLines,
  isGlanceCheap: true,
  fit,
};

export const recordsForm: ServerForm = {
  ...wordsForm,
  kind: 'records',
  is: ({ kind }) => kind === 'records',
  read: ({ path }) =>
    Promise.resolve({ facts: null, expects: path.endsWith('.json') ? ['JSON that can be read.'] : [] }),
};

const LINES = 5;
const LINE_CHARACTERS = 42;

function firstLines({ head, size }: Subject): Promise<Glance> {
  // A character that is cut in two would make another encoding of it.
  const whole = size > head.length ? head.subarray(0, head.lastIndexOf(0x0a) + 1 || head.length) : head;
  const text = decodeText(whole).replace(/\ufffd+$/, '');
  const lines = text
    .split(/\r?\n/)
    .slice(0, LINES)
    .map((line) => line.slice(0, LINE_CHARACTERS));
  return Promise.resolve({ summary: '', shows: { is: 'lines', lines } });
}

async function fit(original: Subject, { bytes, fileName }: DroppedFile): Promise<Fitted> {
  const { path } = original;
  // Its name says nothing, and the game may take any bytes under it.
  if (kindOf(path) === 'bytes' && kindOf(fileName, bytes) === 'bytes') return { files: [{ path, bytes }], notes: [] };
  const made = fitText(path, await original.bytes(), bytes, fileName);
  return { files: [{ path, bytes: made.bytes }], notes: made.notes };
}
