/** Texts from strangers, fit to be shown: on a terminal, in a log, in a sentence. */

/** Control characters, line ends among them, and marks that turn the direction of what follows. */
const HIDDEN = /[\u0000-\u001f\u007f-\u009f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/g;

/** Characters that would move the cursor, change colours or reorder the line stand as their code: `\u{1B}`. */
export function visible(text: string): string {
  return text.replace(HIDDEN, (one) => `\\u{${one.codePointAt(0)!.toString(16).toUpperCase()}}`);
}
