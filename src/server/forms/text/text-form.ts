/** Texts: words that a game shows, and records such as JSON. */
import { FaultError } from '../../../core/faults';
import { fitMessages, isMo, moAsPo } from '../../../core/forms/words';
import { kindOf } from '../../../core/game';
import { decodeText, textFormOf } from '../../../core/text';
import type { Glance } from '../../shapes';
import type { DroppedFile, Fitted, ServerForm, Subject } from '../form';
import { fitText } from './fit-text';

export const wordsForm: ServerForm = {
  kind: 'words',
  is: ({ kind }) => kind === 'words',
  async read({ head, path, bytes }) {
    if (isMo(head)) {
      moAsPo(await bytes(), path);
      return { facts: null, expects: ['Messages as gettext keeps them (MO). Bring MO, or PO, which becomes MO.'] };
    }
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

/** Larger files of messages are read when they are opened: a list of cards does not wait for them. */
const MOST_GLANCED_BYTES = 64 << 10;
const LINES = 5;
const LINE_CHARACTERS = 42;

async function firstLines({ path, head, size, bytes }: Subject): Promise<Glance> {
  if (isMo(head) && size > MOST_GLANCED_BYTES) return lines('');
  if (isMo(head)) return lines(moAsPo(await bytes(), path).replace(/^(#.*\n)*msgid ""\nmsgstr ""\n(".*\n)*\n/, ''));
  // A character that is cut in two would make another encoding of it.
  const whole = size > head.length ? head.subarray(0, head.lastIndexOf(0x0a) + 1 || head.length) : head;
  return lines(decodeText(whole).replace(/\ufffd+$/, ''));
}

const lines = (text: string): Glance => ({
  summary: '',
  shows: {
    is: 'lines',
    lines: text
      .split(/\r?\n/)
      .slice(0, LINES)
      .map((line) => line.slice(0, LINE_CHARACTERS)),
  },
});

/** Packed messages as the text that people write. @throws FaultError `wrong-kind` for any other text */
export async function messagesOf({ path, head, bytes }: Subject): Promise<string> {
  if (!isMo(head))
    throw new FaultError({ code: 'wrong-kind', entry: path, expected: 'messages as gettext keeps them' });
  return moAsPo(await bytes(), path);
}

async function fit(original: Subject, { bytes, fileName }: DroppedFile): Promise<Fitted> {
  const { path } = original;
  if (isMo(original.head)) {
    const made = fitMessages({ bytes, fileName });
    return { files: [{ path, bytes: made.bytes }], notes: made.notes };
  }
  // Its name says nothing, and the game may take any bytes under it.
  if (kindOf(path) === 'bytes' && kindOf(fileName, bytes) === 'bytes') return { files: [{ path, bytes }], notes: [] };
  const made = fitText(path, await original.bytes(), bytes, fileName);
  return { files: [{ path, bytes: made.bytes }], notes: made.notes };
}
