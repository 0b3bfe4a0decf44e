/** What an entry most likely is, from its first bytes and, where these say nothing, from its name. */

import { CONTENT_TESTS, EXTENSIONS, SCRIPTS, UNSURE } from './extensions';
import { type Kind } from '../kind-names';
import { SIGNATURES, signatureOf } from './signatures';
import { isText } from './text';

/** What all entries of an archive are, where its recipe says so. */
export function declaredKind({
  entries,
}: {
  entries: { sound: unknown; words: unknown; film: unknown };
}): Kind | undefined {
  if (entries.sound !== undefined) return 'sound';
  if (entries.film !== undefined) return 'film';
  return entries.words === undefined ? undefined : 'words';
}

/** @param head the first bytes, 16 or more where there are as many; none to judge by the name alone */
export function kindOf(path: string, head?: Uint8Array): Kind {
  return facts(path, head).kind;
}

/** The media type to serve an entry as; never one that a browser would run. */
export function mimeOf(path: string, head?: Uint8Array): string {
  return facts(path, head).mime;
}

/** What bytes without a name most likely are, and the ending to give them; text is recognised by having nothing but text. */
export function guessFromHead(head: Uint8Array): { readonly kind: Kind; readonly extension: string } {
  const signature = signatureOf(head);
  if (signature !== undefined) return signature;
  if (!isText(head)) return { kind: 'bytes', extension: 'bin' };
  return /^\s*[[{]/.test(Buffer.from(head.subarray(0, 16)).toString('latin1'))
    ? { kind: 'records', extension: 'json' }
    : { kind: 'words', extension: 'txt' };
}

/**
 * What a loose file is, by its first bytes and then by its name.
 *
 * @returns undefined for a file that nothing identifies: it may be an archive of an unknown format
 */
export function looseKind(path: string, head: Uint8Array): Kind | undefined {
  const kind = kindOf(path, head);
  if (kind !== 'bytes') return kind;
  const guess = guessFromHead(head);
  return guess.kind === 'bytes' ? undefined : guess.kind;
}

function facts(path: string, head: Uint8Array | undefined): { kind: Kind; mime: string } {
  const signature = head === undefined ? undefined : signatureOf(head);
  if (signature !== undefined) return signature;
  const ending = path.slice(path.lastIndexOf('.') + 1).toLowerCase();
  const named = EXTENSIONS[ending] ?? (SCRIPTS.includes(ending) ? { kind: 'words', mime: 'text/plain' } : undefined);
  // A name must not make a picture of something that is none.
  const binary = named !== undefined && named.kind !== 'words' && named.kind !== 'records';
  const test = CONTENT_TESTS[ending];
  const contradicts = (bytes: Uint8Array) =>
    test === undefined ? SIGNATURES.some(({ mime }) => mime === named!.mime) : !test(bytes);
  if (named !== undefined && !(head !== undefined && binary && contradicts(head))) return named;
  if (head !== undefined && isText(head)) return { kind: 'words', mime: 'text/plain' };
  const bytes = { kind: 'bytes', mime: 'application/octet-stream' } as const;
  return head === undefined || head.length === 0 ? bytes : (UNSURE[ending] ?? bytes);
}
