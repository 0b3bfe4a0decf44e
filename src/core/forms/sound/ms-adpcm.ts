/**
 * MS ADPCM, as Microsoft's "Multimedia Data Standards Update" of 1994 describes it: blocks of a header for each channel, then
 * four bits a sample, the higher ones first.
 */
import { FormatError } from '../../faults';

/** What a sample is expected to be: parts of the two before it, in 256ths. */
const PREDICTORS: readonly (readonly [first: number, second: number])[] = [
  [256, 0],
  [512, -256],
  [0, 0],
  [192, 64],
  [240, 0],
  [460, -208],
  [392, -232],
];
/** How the step grows with each code, in 256ths. */
const GROWTH = [230, 230, 230, 230, 307, 409, 512, 614, 768, 614, 512, 409, 307, 230, 230, 230];
const LEAST_STEP = 16;
/** Bytes of the header of a block, for each channel. */
const HEAD = 7;

/** Samples of one channel in a block of so many bytes. */
export const msSamples = (block: number, channels: number): number =>
  Math.floor(((block - HEAD * channels) * 2) / channels) + 2;

interface State {
  predictor: number;
  step: number;
  /** The sample before, and the one before that. */
  last: number;
  older: number;
}

const clamp = (value: number) => Math.max(-32_768, Math.min(32_767, value));

function next(state: State, code: number): number {
  const [a, b] = PREDICTORS[state.predictor]!;
  const signed = code >= 8 ? code - 16 : code;
  const value = clamp(Math.trunc((state.last * a + state.older * b) / 256) + signed * state.step);
  state.older = state.last;
  state.last = value;
  state.step = Math.max(LEAST_STEP, Math.trunc((GROWTH[code]! * state.step) / 256));
  return value;
}

/**
 * @param block bytes of a block of all channels together; the last one may be shorter
 * @returns samples with the channels in turn
 * @throws FormatError `codec-failed` for a predictor that there is none of
 */
export function decodeMs(bytes: Uint8Array, channels: number, block: number, name: string): Int16Array {
  if (block <= HEAD * channels)
    throw new FormatError({
      code: 'wrong-kind',
      entry: name,
      field: 'block',
      expected: `more than ${HEAD * channels} bytes`,
      found: String(block),
    });
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out = new Int16Array(Math.ceil(bytes.length / block) * msSamples(block, channels) * channels);
  let count = 0;
  for (let at = 0; at + HEAD * channels <= bytes.length; at += block) {
    const states = Array.from({ length: channels }, (_, channel): State => {
      const predictor = bytes[at + channel]!;
      if (predictor >= PREDICTORS.length)
        throw new FormatError({
          code: 'codec-failed',
          entry: name,
          offset: at + channel,
          what: 'a block of MS ADPCM names a predictor that there is none of',
          expected: `0 to ${PREDICTORS.length - 1}`,
          found: String(predictor),
          hint: 'The codec, the size of its blocks or the key may be another.',
        });
      const word = (field: number) => view.getInt16(at + channels + (field * channels + channel) * 2, true);
      return { predictor, step: word(0), last: word(1), older: word(2) };
    });
    for (const { older } of states) out[count++] = older;
    for (const { last } of states) out[count++] = last;
    const end = Math.min(at + block, bytes.length);
    let channel = 0;
    for (let i = at + HEAD * channels; i < end; i++)
      for (const code of [bytes[i]! >> 4, bytes[i]! & 15]) {
        out[count++] = next(states[channel]!, code);
        channel = (channel + 1) % channels;
      }
  }
  return out.subarray(0, count);
}

/** Whole blocks; the last one is filled up with silence. */
export function encodeMs(samples: Int16Array, channels: number, block: number): Uint8Array {
  const each = msSamples(block, channels);
  const blocks = Math.ceil(samples.length / (each * channels));
  const out = new Uint8Array(blocks * block);
  const view = new DataView(out.buffer);
  for (let b = 0; b < blocks; b++) {
    const codes: Uint8Array[] = [];
    for (let channel = 0; channel < channels; channel++) {
      const own = Int16Array.from({ length: each }, (_, i) => samples[(b * each + i) * channels + channel] ?? 0);
      const { state, codes: found } = bestOf(own);
      codes.push(found);
      const at = b * block;
      out[at + channel] = state.predictor;
      for (const [field, value] of [state.step, state.last, state.older].entries())
        view.setInt16(at + channels + (field * channels + channel) * 2, value, true);
    }
    for (let i = 0; i < (each - 2) * channels; i++) {
      const code = codes[i % channels]![Math.floor(i / channels)]!;
      out[b * block + HEAD * channels + (i >> 1)]! |= i % 2 === 0 ? code << 4 : code;
    }
  }
  return out;
}

/** The predictor and the first step that come nearest, tried one after the other. */
function bestOf(samples: Int16Array): { state: State; codes: Uint8Array } {
  let best: { state: State; codes: Uint8Array } | undefined;
  let least = Infinity;
  for (let predictor = 0; predictor < PREDICTORS.length; predictor++) {
    const state = { predictor, step: firstStep(samples, predictor), last: samples[1]!, older: samples[0]! };
    const { codes, error } = coded(samples, { ...state });
    if (error < least) [least, best] = [error, { state, codes }];
  }
  return best!;
}

/** About what the first samples are away from what the predictor expects of them. */
function firstStep(samples: Int16Array, predictor: number): number {
  const [a, b] = PREDICTORS[predictor]!;
  let sum = 0;
  const some = Math.min(samples.length, 10);
  for (let i = 2; i < some; i++)
    sum += Math.abs(samples[i]! - Math.trunc((samples[i - 1]! * a + samples[i - 2]! * b) / 256));
  return Math.max(LEAST_STEP, Math.min(32_767, Math.round(sum / Math.max(1, some - 2) / 4)));
}

function coded(samples: Int16Array, state: State): { codes: Uint8Array; error: number } {
  const codes = new Uint8Array(samples.length - 2);
  let error = 0;
  for (let i = 2; i < samples.length; i++) {
    const [a, b] = PREDICTORS[state.predictor]!;
    const expected = Math.trunc((state.last * a + state.older * b) / 256);
    const code = Math.max(-8, Math.min(7, Math.round((samples[i]! - expected) / state.step))) & 15;
    codes[i - 2] = code;
    error += (next(state, code) - samples[i]!) ** 2;
  }
  return { codes, error };
}
