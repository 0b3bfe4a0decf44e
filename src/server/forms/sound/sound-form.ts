/** Sounds: files in a standard format, and those whose archive or own fields say how they are stored. */
import { hexBytes, isFaultError, sayFault } from '../../../core/faults';
import {
  readWavFacts,
  saySound,
  sayWav,
  secondsOf,
  soundPeaks,
  soundsLikeNoise,
  wavPeaks,
  writeRecipeSound,
} from '../../../core/forms/sound';
import { SOUND_OUT } from '../../../core/forms/sound/out-formats';
import { kindOf } from '../../../core/game';
import { fitCue, fitSoundFile } from '../../../programs';
import { isWave } from '../../content';
import type { Glance, SoundFacts } from '../../shapes';
import type { DroppedFile, Fitted, FormRead, ServerForm, Subject } from '../form';
import { wrongKind } from '../wrong-kind';
import {
  isOwnSound,
  loopIsFree,
  ownFormat,
  ownSound,
  recipeSound,
  saySoundExpectation,
  soundFileAs,
} from './entry-sound';
import { planSounds } from './take-out';

export const soundForm: ServerForm = {
  kind: 'sound',
  is: ({ kind }) => kind === 'sound',
  read: async (subject) => ((await isOwnSound(subject)) ? readOwn(subject) : readFile(subject)),
  glance: async (subject) => ((await isOwnSound(subject)) ? glanceOfOwn(subject) : glanceOfFile(subject)),
  fit,
  planOut: planSounds,
  async asFile(subject, format) {
    const as = SOUND_OUT.find((one) => one === format);
    return as === undefined ? undefined : soundFileAs(subject, as);
  },
  exchange: async (subject) => ((await isOwnSound(subject)) ? soundFileAs(subject, 'wav') : undefined),
  async measure(subject) {
    const wave = isWave(subject.head) ? readWavFacts(await subject.bytes(), subject.path) : undefined;
    const facts = wave ?? (await ownFormat(subject));
    return facts === undefined ? {} : { sound: { rate: facts.rate, channels: facts.channels } };
  },
};

/** One that cannot be played says why, and is still an entry like any other. */
async function readOwn(subject: Subject): Promise<FormRead> {
  const facts: SoundFacts = { form: 'sound', summary: '', seconds: 0, loop: null, direct: false };
  const stored = `It begins with ${hexBytes(subject.head, 16)}, and is written as stored.`;
  let format;
  try {
    format = await ownFormat(subject);
    const found = await ownSound(subject);
    format = found.format;
    const { loop, rate } = format;
    const trouble = soundsLikeNoise(found.sound)
      ? `What is decoded is nothing but loud noise: the codec, its blocks or the key may be others than the recipe says. ${stored}`
      : undefined;
    return {
      facts: {
        ...facts,
        summary: saySound(format),
        seconds: secondsOf(found.sound),
        loop: loop === undefined ? null : [loop[0] / rate, loop[1] / rate],
      },
      expects: saySoundExpectation(found),
      ...(trouble === undefined ? {} : { trouble }),
    };
  } catch (error) {
    if (!isFaultError(error)) throw error;
    const summary = format === undefined ? `codec ${error.fault.found ?? 'unknown'}` : saySound(format);
    return { facts: { ...facts, summary }, expects: [], trouble: `${sayFault(error.fault)} ${stored}` };
  }
}

async function readFile({ head, path, bytes }: Subject): Promise<FormRead> {
  if (!isWave(head)) return { facts: null, expects: [] };
  const wave = readWavFacts(await bytes(), path);
  const summary = sayWav(wave);
  return {
    facts: { form: 'sound', summary, seconds: wave.seconds, loop: null, direct: true },
    expects: [`A WAVE sound, ${summary}. The original lasts ${wave.seconds.toFixed(1)} s.`],
    detail: { sound: wave },
  };
}

/** Places along its length at which a card shows how loud it is. */
const CELLS = 48;

async function glanceOfOwn(subject: Subject): Promise<Glance> {
  const { sound } = await ownSound(subject);
  return glanceBy(secondsOf(sound), soundPeaks(sound, CELLS));
}

async function glanceOfFile({ head, path, bytes }: Subject): Promise<Glance> {
  if (!isWave(head)) return { summary: '', shows: { is: 'mark' } };
  const whole = await bytes();
  return glanceBy(readWavFacts(whole, path).seconds, wavPeaks(whole, path, CELLS));
}

function glanceBy(seconds: number, peaks: readonly number[] | undefined): Glance {
  const rounded = peaks?.map((peak) => Math.round(peak * 100) / 100);
  return {
    summary: `${seconds.toFixed(1)} s`,
    shows: rounded === undefined ? { is: 'mark' } : { is: 'peaks', peaks: rounded },
  };
}

async function fit(original: Subject, dropped: DroppedFile): Promise<Fitted> {
  const { bytes, fileName, fitOptions } = dropped;
  const { path } = original;
  const format = await ownFormat(original);
  if (format === undefined) {
    if (kindOf(fileName, bytes) !== 'sound') throw wrongKind(original, dropped);
    const made = await fitSoundFile(path, await original.bytes(), bytes, fileName, fitOptions);
    return { files: [{ path, bytes: made.bytes }], notes: made.notes };
  }
  const own = await recipeSound(original);
  const before = own?.samples ?? (await original.bytes());
  const { bytes: samples, ...made } = await fitCue(format, before, bytes, fileName, {
    ...fitOptions,
    loopIsFree: await loopIsFree(original),
  });
  return { files: [{ path, bytes: own === undefined ? samples : await writeRecipeSound(own, samples) }], ...made };
}
