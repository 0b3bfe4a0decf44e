/** A small picture of a mesh, drawn by a processor: seen from the front, a little from the right and from above. */
import { makeNormals } from './directions';
import { boundsOf, type Mesh } from './mesh';
import { inMetres } from './space';

export interface Drawn {
  readonly width: number;
  readonly height: number;
  /** Red, green, blue and alpha of each pixel. */
  readonly rgba: Uint8Array;
}

/** Each pixel is drawn as so many along each side, and their mean taken. */
const FINER = 2;
const TURN = (35 * Math.PI) / 180;
const TILT = (20 * Math.PI) / 180;
const MARGIN = 0.06;
/** From where light comes, in the space of the picture. */
const LIGHT = [0.35, 0.6, 0.72] as const;

/** @param colour red, green and blue from 0 to 255 of what is fully lit */
export function drawMesh(game: Mesh, width: number, height: number, colour: readonly [number, number, number]): Drawn {
  const parts = inMetres(game).levels[0]!.parts.map((part) => ({
    ...part,
    normals: part.normals ?? makeNormals(part),
  }));
  const turnedParts = parts.map((part) => ({ ...part, positions: turn(part.positions), normals: turn(part.normals) }));
  const [w, h] = [width * FINER, height * FINER];
  const lit = new Float32Array(w * h).fill(-1);
  const depths = new Float32Array(w * h).fill(-Infinity);
  const box = boundsOf(turnedParts);
  if (box !== undefined) {
    const [spanX, spanY] = [box.high[0] - box.low[0], box.high[1] - box.low[1]];
    const scale = Math.min((w * (1 - 2 * MARGIN)) / (spanX || 1e-6), (h * (1 - 2 * MARGIN)) / (spanY || 1e-6));
    const [middleX, middleY] = [(box.low[0] + box.high[0]) / 2, (box.low[1] + box.high[1]) / 2];
    for (const { positions, normals, indices } of turnedParts)
      for (let t = 0; t < indices.length; t += 3) {
        const corners = [0, 1, 2].map((i) => {
          const at = indices[t + i]! * 3;
          const light = normals[at]! * LIGHT[0] + normals[at + 1]! * LIGHT[1] + normals[at + 2]! * LIGHT[2];
          return {
            x: w / 2 + (positions[at]! - middleX) * scale,
            y: h / 2 - (positions[at + 1]! - middleY) * scale,
            z: positions[at + 2]!,
            light,
          };
        });
        fill(corners as [Corner, Corner, Corner], w, h, depths, lit);
      }
  }
  return { width, height, rgba: shrink(lit, width, height, colour) };
}

interface Corner {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly light: number;
}

function turn(values: Float32Array): Float32Array {
  const out = new Float32Array(values.length);
  const [sinTurn, cosTurn, sinTilt, cosTilt] = [Math.sin(TURN), Math.cos(TURN), Math.sin(TILT), Math.cos(TILT)];
  for (let i = 0; i < values.length; i += 3) {
    const x = values[i]! * cosTurn - values[i + 2]! * sinTurn;
    const z = values[i]! * sinTurn + values[i + 2]! * cosTurn;
    out[i] = x;
    out[i + 1] = values[i + 1]! * cosTilt - z * sinTilt;
    out[i + 2] = values[i + 1]! * sinTilt + z * cosTilt;
  }
  return out;
}

function fill(
  [a, b, c]: readonly [Corner, Corner, Corner],
  w: number,
  h: number,
  depths: Float32Array,
  lit: Float32Array,
): void {
  const area = (b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y);
  if (area === 0 || !Number.isFinite(area)) return;
  const [left, right] = [
    Math.max(0, Math.floor(Math.min(a.x, b.x, c.x))),
    Math.min(w - 1, Math.ceil(Math.max(a.x, b.x, c.x))),
  ];
  const [top, bottom] = [
    Math.max(0, Math.floor(Math.min(a.y, b.y, c.y))),
    Math.min(h - 1, Math.ceil(Math.max(a.y, b.y, c.y))),
  ];
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) {
      const [px, py] = [x + 0.5, y + 0.5];
      const u = ((b.x - px) * (c.y - py) - (c.x - px) * (b.y - py)) / area;
      const v = ((c.x - px) * (a.y - py) - (a.x - px) * (c.y - py)) / area;
      const rest = 1 - u - v;
      if (u < 0 || v < 0 || rest < 0) continue;
      const z = u * a.z + v * b.z + rest * c.z;
      const at = y * w + x;
      if (z <= depths[at]!) continue;
      depths[at] = z;
      // Sides that show their back are lit as if they were turned.
      lit[at] = 0.38 + 0.62 * Math.abs(u * a.light + v * b.light + rest * c.light);
    }
}

function shrink(
  lit: Float32Array,
  width: number,
  height: number,
  colour: readonly [number, number, number],
): Uint8Array {
  const rgba = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let [light, count] = [0, 0];
      for (let i = 0; i < FINER * FINER; i++) {
        const value = lit[(y * FINER + Math.floor(i / FINER)) * width * FINER + x * FINER + (i % FINER)]!;
        if (value < 0) continue;
        light += value;
        count++;
      }
      const at = (y * width + x) * 4;
      for (let i = 0; i < 3; i++) rgba[at + i] = count === 0 ? 0 : Math.min(255, (colour[i]! * light) / count);
      rgba[at + 3] = (count / (FINER * FINER)) * 255;
    }
  return rgba;
}
