/** Which of two entries holds more: said with the figures it rests on. */

/** What there is to know of one of them. */
export interface Detail {
  readonly name: string;
  readonly size: number;
  readonly picture?: { readonly width: number; readonly height: number };
  /** Triangles of the most detailed level, where it is a mesh. */
  readonly triangles?: number;
  /** Sample rate in hertz and bits a sample, where it is a sound. */
  readonly sound?: {
    readonly rate: number;
    readonly bits: number;
    readonly channels: number;
    readonly seconds: number;
  };
}

/** One sentence; where nothing distinguishes them, it says so. */
export function moreDetailed(left: Detail, right: Detail): string {
  const [a, b] = [left.name, right.name];
  if (left.picture !== undefined && right.picture !== undefined) {
    const say = ({ width, height }: { width: number; height: number }) => `${width} × ${height}`;
    const pixels = ({ width, height }: { width: number; height: number }) => width * height;
    const figures = `${say(left.picture)} and ${say(right.picture)} pixels`;
    return verdict(a, b, pixels(left.picture), pixels(right.picture), figures, 'the same number of pixels');
  }
  if (left.sound !== undefined && right.sound !== undefined) {
    const say = ({ rate, bits, channels }: NonNullable<Detail['sound']>) =>
      `${rate.toLocaleString('en')} Hz of ${bits} bit in ${channels === 1 ? 'one channel' : `${channels} channels`}`;
    const depth = ({ rate, bits, channels }: NonNullable<Detail['sound']>) => rate * bits * channels;
    const lengths =
      Math.abs(left.sound.seconds - right.sound.seconds) < 0.05
        ? ''
        : `; they last ${left.sound.seconds.toFixed(1)} and ${right.sound.seconds.toFixed(1)} s`;
    const figures = `${say(left.sound)} and ${say(right.sound)}${lengths}`;
    return verdict(a, b, depth(left.sound), depth(right.sound), figures, `the same rate and depth${lengths}`);
  }
  if (left.triangles !== undefined && right.triangles !== undefined) {
    const figures = `${left.triangles.toLocaleString('en')} and ${right.triangles.toLocaleString('en')} triangles`;
    return verdict(a, b, left.triangles, right.triangles, figures, 'the same number of triangles');
  }
  const figures = `${left.size.toLocaleString('en')} and ${right.size.toLocaleString('en')} bytes`;
  return verdict(a, b, left.size, right.size, figures, 'the same number of bytes');
}

function verdict(a: string, b: string, left: number, right: number, figures: string, same: string): string {
  if (left === right) return `Both have ${same}.`;
  return `${left > right ? a : b} is the more detailed one: ${figures}.`;
}
