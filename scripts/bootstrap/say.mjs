/** Thrown where the work cannot go on, with a sentence that says what to do. */
export class Stop extends Error {}

export function step(text) {
  process.stdout.write(`• ${text}\n`);
}
