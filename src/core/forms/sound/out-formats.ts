/** Formats sounds are taken out in. */
export const SOUND_OUT = ['wav', 'flac', 'ogg'] as const;
export type SoundOut = (typeof SOUND_OUT)[number];
