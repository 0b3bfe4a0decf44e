/** All sounds of a taking out in one file, with a cue sheet. */
import { throwIfStopped } from '../../core/faults';
import { joinTracks, withoutSilence, type Track } from '../../core/forms/sound';
import { asSound, entrySubject } from '../forms';
import type { OutgoingEntry } from '../shapes';

/** Samples that are held at once: half an hour of stereo at 48,000 Hz is a third of it. */
const MOST_SAMPLES = 256 << 20;

export interface JoinedSounds {
  readonly wav: Uint8Array;
  readonly cue: string;
  /** Sounds that are not in it, since there was no more room. */
  readonly left: readonly string[];
}

/** Sounds of other rates or channels are made like the first. */
export async function joinSounds(
  entries: readonly OutgoingEntry[],
  file: string,
  { trim, signal }: { readonly trim: boolean; readonly signal: AbortSignal },
): Promise<JoinedSounds> {
  const tracks: Track[] = [];
  const left: string[] = [];
  let samples = 0;
  for (const { archive, n, path, label } of entries) {
    throwIfStopped(signal);
    const like = tracks[0]?.sound;
    const whole = await asSound(await entrySubject(archive, n), like);
    const sound = trim ? withoutSilence(whole) : whole;
    samples += sound.samples.length;
    if (samples > MOST_SAMPLES) left.push(path);
    else tracks.push({ title: label ?? path.slice(path.lastIndexOf('/') + 1), sound });
  }
  return { ...joinTracks(tracks, file), left };
}
