/**
 * Pictures whose channels mean several things, such as normals with the roughness in alpha: split into pictures that a
 * drawing program understands, and joined again.
 *
 * A rule is text: `_normal: rgb; _rough: -a`. Each part has what is added to the name, and one, three or four channels: `r`,
 * `g`, `b`, `a` of the packed picture, each turned round by a `-` in front, or `0` or `1` for none and all.
 */
import { FormatError } from '../../faults';
import type { Pixels } from './picture';

interface Source {
  /** 0 to 3, or the value that is everywhere. */
  readonly channel: number | undefined;
  readonly fixed: number;
  readonly turned: boolean;
}

export interface SplitPart {
  /** What is added to the name, such as `_rough`. */
  readonly suffix: string;
  readonly sources: readonly Source[];
}

/** The channels one by one, as grey pictures. */
export const CHANNELS_APART = '_red: r; _green: g; _blue: b; _alpha: a';

const MOST_PARTS = 16;

/** @throws FormatError `invalid-request` that says what of the rule is not right */
export function parseSplit(rule: string): SplitPart[] {
  const refuse = (what: string, found: string) =>
    new FormatError({ code: 'invalid-request', what, expected: 'parts such as `_normal: rgb; _rough: -a`', found });
  const texts = rule.split(';').map((one) => one.trim());
  const parts = texts
    .filter((one) => one !== '')
    .map((text): SplitPart => {
      const match = /^([\w-]{1,40})\s*:\s*((?:-?[rgba01]\s*){1,4})$/.exec(text);
      if (match === null) throw refuse('a part of the rule is not right', text);
      const sources = [...match[2]!.matchAll(/(-?)([rgba01])/g)].map(([, minus, name]): Source => {
        const channel = 'rgba'.indexOf(name!);
        return { channel: channel < 0 ? undefined : channel, fixed: name === '1' ? 255 : 0, turned: minus === '-' };
      });
      if (sources.length === 2) throw refuse('a part has one channel, three or four', text);
      return { suffix: match[1]!, sources };
    });
  if (parts.length === 0 || parts.length > MOST_PARTS) throw refuse('the rule has no parts, or too many', rule);
  if (new Set(parts.map(({ suffix }) => suffix)).size < parts.length)
    throw refuse('two parts add the same to the name', rule);
  return parts;
}

/** One part of a packed picture as a picture of its own: grey for one channel, without alpha for three. */
export function splitPart({ width, height, rgba }: Pixels, { sources }: SplitPart): Pixels {
  const out = new Uint8Array(rgba.length);
  for (let i = 0; i < rgba.length; i += 4)
    for (let c = 0; c < 4; c++) {
      const source = sources.length === 1 && c < 3 ? sources[0] : sources[c];
      const value =
        source === undefined ? 255 : source.channel === undefined ? source.fixed : rgba[i + source.channel]!;
      out[i + c] = source?.turned === true ? 255 - value : value;
    }
  return { width, height, rgba: out };
}

/**
 * A packed picture with one part as it was brought; the other channels stay.
 *
 * @param part of the size of the packed picture
 */
export function joinPart(packed: Pixels, { sources }: SplitPart, part: Pixels): Pixels {
  if (packed.width !== part.width || packed.height !== part.height) throw new RangeError('the part is of another size');
  const rgba = new Uint8Array(packed.rgba);
  for (const [c, { channel, turned }] of sources.entries()) {
    if (channel === undefined) continue;
    for (let i = 0; i < rgba.length; i += 4) {
      // Of a grey picture that was saved in colours, the brightness counts.
      const grey = () => Math.round(0.2126 * part.rgba[i]! + 0.7152 * part.rgba[i + 1]! + 0.0722 * part.rgba[i + 2]!);
      const value = sources.length === 1 ? grey() : part.rgba[i + c]!;
      rgba[i + channel] = turned ? 255 - value : value;
    }
  }
  return { ...packed, rgba };
}
