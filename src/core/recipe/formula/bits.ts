import type { Value } from './value';

/** Bits `shift` to `shift + width - 1` of a whole number; bit 0 is the lowest. */
export function bitsOf(value: Value, shift: number, width: number): number | bigint {
  if (typeof value === 'number' && value >= 0 && value <= 0xffffffff && shift + width <= 32) {
    return width === 32 ? value : (value >>> shift) & (2 ** width - 1);
  }
  const wide = (BigInt(value as number | bigint) >> BigInt(shift)) & ((1n << BigInt(width)) - 1n);
  return wide <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(wide) : wide;
}

/** The same number with other bits there. */
export function withBits(value: Value, shift: number, width: number, bits: Value): number | bigint {
  const mask = ((1n << BigInt(width)) - 1n) << BigInt(shift);
  const wide = (BigInt(value as number) & ~mask) | ((BigInt(bits as number) << BigInt(shift)) & mask);
  return wide <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(wide) : wide;
}
