/** How many characters a sentence names. */
const NAMED = 24;

/** Characters as a sentence lists them: spaces and what draws nothing by their numbers. */
export function letterList(codePoints: readonly number[]): string {
  const named = codePoints.slice(0, NAMED).map((one) => {
    const character = String.fromCodePoint(one);
    return /[\p{L}\p{N}\p{P}\p{S}]/u.test(character)
      ? character
      : `U+${one.toString(16).toUpperCase().padStart(4, '0')}`;
  });
  return codePoints.length > NAMED ? `${named.join(' ')} …` : named.join(' ');
}
