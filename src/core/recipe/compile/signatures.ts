/** What `match` looks for, out of a checked recipe or out of its text alone. */
import { matchSchema } from '../language/schema';
import { quoteCalls } from '../language/quote-calls';
import type { ParsedText } from '../language/recipe-text';
import { readYaml } from '../language/yaml-text';
import type { Match } from '../model';
import { signatureBytes } from './demand';
import { invalid } from './setting';

/** @throws FormatError `recipe-invalid` for a mask of another length */
export function compileMatch({ recipe, lineOf }: Pick<ParsedText, 'lineOf'> & { recipe: MatchText }): Match[][] {
  return (recipe.match ?? []).map((all, i) =>
    all.map(({ at, within, bytes, mask }): Match => {
      const line = lineOf(['match', i]);
      const wanted = signatureBytes(bytes, line);
      const bits = mask === undefined ? undefined : new Uint8Array(Buffer.from(mask.replace(/\s/g, ''), 'hex'));
      if (bits !== undefined && bits.length !== wanted.length)
        throw invalid(line, 'the mask is not as long as the bytes', `${wanted.length} bytes`, `found ${bits.length}`);
      return { at: Math.abs(at), fromEnd: at < 0, within: within ?? 1, bytes: wanted, mask: bits };
    }),
  );
}

type MatchText = Pick<ParsedText['recipe'], 'match'>;

/** The lines of `match`: its own, and those below that are indented, empty or comments. */
const MATCH_LINES = /^match:.*(?:\n(?:[ \t#-].*)?)*/m;

/**
 * What a recipe looks for, without reading the rest of it.
 *
 * @returns undefined where it looks for nothing, or where only reading all of it tells
 */
export function matchOfText(text: string): Match[][] | undefined {
  const lines = MATCH_LINES.exec(text)?.[0];
  if (lines === undefined) return undefined;
  try {
    const { plain, lineOf } = readYaml(quoteCalls(lines));
    return compileMatch({ recipe: matchSchema.parse(plain), lineOf });
  } catch {
    // Reading all of it says what is wrong, and where.
    return undefined;
  }
}
