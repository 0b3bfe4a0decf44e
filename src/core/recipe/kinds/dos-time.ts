/** MS-DOS date (high 16 bits) and time (low 16 bits), local time taken as UTC, in steps of 2 seconds. */
export function fromDos(value: number): number {
  const date = value >>> 16;
  const time = value & 0xffff;
  return Date.UTC(1980 + (date >> 9), ((date >> 5) & 15) - 1, date & 31, time >> 11, (time >> 5) & 63, (time & 31) * 2);
}

export function toDos(ms: number): number {
  const at = new Date(ms);
  const date = ((at.getUTCFullYear() - 1980) << 9) | ((at.getUTCMonth() + 1) << 5) | at.getUTCDate();
  const time = (at.getUTCHours() << 11) | (at.getUTCMinutes() << 5) | (at.getUTCSeconds() >> 1);
  return ((date << 16) | time) >>> 0;
}
