/** Films: streams of pictures, sound and subtitles, each in packets with times. */

export const STREAM_KINDS = ['pictures', 'sound', 'subtitles'] as const;
export type StreamKind = (typeof STREAM_KINDS)[number];

export interface FilmPacket {
  /** Its entry in the archive, and what that is called there. */
  readonly n: number;
  readonly path: string;
  /** Milliseconds from the start. */
  readonly time: number;
  /** Bytes, unpacked. */
  readonly size: number;
}

export interface FilmStream {
  /** Position among the streams. */
  readonly number: number;
  readonly is: StreamKind;
  readonly codec: string;
  /** Empty where it has none. */
  readonly locale: string;
  /** Frames or samples a second; 0 of subtitles. */
  readonly rate: number;
  /** Of sound. */
  readonly channels: number;
  /** Bytes of a block of sound, of codecs that have blocks. */
  readonly block: number | undefined;
  /** Pixels of a frame; 0 of others. */
  readonly width: number;
  readonly height: number;
  /** By time. */
  readonly packets: readonly FilmPacket[];
}

export interface Film {
  readonly streams: readonly FilmStream[];
  /** Milliseconds that a subtitle is at most; until the next one when it is undefined. */
  readonly shownFor: number | undefined;
  readonly seconds: number;
}

/** A subtitle, in milliseconds. */
export interface Subtitle {
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

export const streamsOf = ({ streams }: Film, is: StreamKind): FilmStream[] => streams.filter((one) => one.is === is);

/** What a stream is, in words. */
export function sayStream({ is, codec, locale, rate, width, height, packets }: FilmStream): string {
  const language = locale === '' ? '' : `, ${locale}`;
  switch (is) {
    case 'pictures':
      return `${packets.length.toLocaleString('en')} pictures of ${width} × ${height}, ${codec.toUpperCase()}, ${rate} a second`;
    case 'sound':
      return `Sound, ${codec}, ${rate.toLocaleString('en')} Hz${language}`;
    case 'subtitles':
      return `${packets.length.toLocaleString('en')} subtitles${language}`;
  }
}
