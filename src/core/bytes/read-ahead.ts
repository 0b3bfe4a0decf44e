/** Small reads that follow one another are served from memory: thousands of rows would else be thousands of calls. */

/** Reads above this many bytes go straight to the file. */
const SMALL_BYTES = 8 << 10;
const WINDOW_BYTES = 64 << 10;
/** Places that are read on from at the same time, such as an index and the data it leads to. */
const MOST_TRACKS = 4;

/** A place that is being read on from. */
interface Track {
  end: number;
  from: number;
  length: number;
  bytes: Promise<Uint8Array> | undefined;
}

type Read = (offset: number, length: number) => Promise<Uint8Array>;

/**
 * The same reads, with a window ahead wherever small ones follow one another. The caller owns what it gets.
 *
 * @param sizeOf bytes there are by now
 */
export function readingAhead(read: Read, sizeOf: () => number): Read {
  const tracks: Track[] = [];
  const follows = (offset: number) => tracks.find(({ end }) => offset >= end && offset < end + WINDOW_BYTES);
  const covers = (offset: number, length: number) =>
    tracks.find(
      ({ from, length: held, bytes }) => bytes !== undefined && offset >= from && offset + length <= from + held,
    );
  return async (offset, length) => {
    if (length > SMALL_BYTES) return read(offset, length);
    let track = covers(offset, length);
    if (track === undefined) {
      track = follows(offset);
      if (track === undefined) {
        if (tracks.length >= MOST_TRACKS) tracks.shift();
        tracks.push({ end: offset + length, from: 0, length: 0, bytes: undefined });
        return read(offset, length);
      }
      track.from = offset;
      track.length = Math.max(length, Math.min(WINDOW_BYTES, sizeOf() - offset));
      track.bytes = read(offset, track.length);
    }
    const { from, bytes } = track;
    track.end = offset + length;
    const window = await bytes!.catch((error: unknown) => {
      track.bytes = undefined;
      throw error;
    });
    return Buffer.from(window.subarray(offset - from, offset - from + length));
  };
}
