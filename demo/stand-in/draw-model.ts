/** Draws a model as it hangs in the depot of the game: from the front, a little from above, lit from the left. */
import type { Drawn } from './mesh-reader';

export const MODEL_SIDE = 160;

/** RGBA of a square picture. */
export function drawModel({ places, corners }: Drawn): Buffer {
  const seen = places.map(([x, y, z]) => [
    x! * 0.8 - z! * 0.6,
    y! * 0.94 - (x! * 0.6 + z! * 0.8) * 0.34,
    x! * 0.6 + z! * 0.8,
  ]);
  const span = [0, 1].map((axis) => {
    const values = seen.map((place) => place[axis]!);
    return [Math.min(...values), Math.max(...values)] as const;
  });
  const scale = (MODEL_SIDE * 0.9) / Math.max(...span.map(([low, high]) => high - low), 1e-6);
  const across = ([x, y]: number[]) => [
    MODEL_SIDE / 2 + (x! - (span[0]![0] + span[0]![1]) / 2) * scale,
    MODEL_SIDE / 2 - (y! - (span[1]![0] + span[1]![1]) / 2) * scale,
  ];
  const rgba = Buffer.alloc(MODEL_SIDE * MODEL_SIDE * 4);
  const near = new Float64Array(MODEL_SIDE * MODEL_SIDE).fill(-Infinity);
  for (let i = 0; i < corners.length; i += 3) {
    const [p, q, r] = [0, 1, 2].map((k) => seen[corners[i + k]!]!) as [number[], number[], number[]];
    const [u, v] = [q, r].map((end) => end.map((value, axis) => value - p[axis]!)) as [number[], number[]];
    const normal = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    const length = Math.hypot(...normal);
    if (length === 0) continue;
    const light = 90 + 150 * Math.abs((normal[0]! * -0.4 + normal[1]! * 0.6 + normal[2]! * 0.7) / length);
    const flat = [p, q, r].map(across) as [number[], number[], number[]];
    paint(flat, [p[2]!, q[2]!, r[2]!], Math.min(255, light), rgba, near);
  }
  return rgba;
}

function paint(
  [a, b, c]: [number[], number[], number[]],
  depth: number[],
  light: number,
  rgba: Buffer,
  near: Float64Array,
): void {
  const side = (from: number[], to: number[], x: number, y: number) =>
    (to[0]! - from[0]!) * (y - from[1]!) - (to[1]! - from[1]!) * (x - from[0]!);
  const whole = side(a, b, c[0]!, c[1]!);
  if (whole === 0) return;
  const range = (axis: number) => [
    Math.max(0, Math.floor(Math.min(a[axis]!, b[axis]!, c[axis]!))),
    Math.min(MODEL_SIDE - 1, Math.ceil(Math.max(a[axis]!, b[axis]!, c[axis]!))),
  ];
  const [[left, right], [top, bottom]] = [range(0), range(1)] as [number[], number[]] as [
    [number, number],
    [number, number],
  ];
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) {
      const weights = [side(b, c, x + 0.5, y + 0.5), side(c, a, x + 0.5, y + 0.5), side(a, b, x + 0.5, y + 0.5)].map(
        (one) => one / whole,
      );
      if (weights.some((weight) => weight < 0)) continue;
      const z = weights.reduce((sum, weight, i) => sum + weight * depth[i]!, 0);
      const at = y * MODEL_SIDE + x;
      if (z <= near[at]!) continue;
      near[at] = z;
      rgba.set([light, light * 0.93, light * 0.74, 255], at * 4);
    }
}
