/** What a block of bzip2 needs before it is coded: its checksum, and its rotations in order. */

const TABLE = Uint32Array.from({ length: 256 }, (_, i) => {
  let value = i << 24;
  for (let bit = 0; bit < 8; bit++) value = value < 0 ? (value << 1) ^ 0x04c11db7 : value << 1;
  return value;
});

/** CRC-32 with the polynomial 04C11DB7, not reflected. */
export function bzip2Crc(bytes: Uint8Array): number {
  let crc = -1;
  for (let i = 0; i < bytes.length; i++) crc = (crc << 8) ^ TABLE[(crc >>> 24) ^ bytes[i]!]!;
  return ~crc >>> 0;
}

/** The starts of all rotations of the bytes in their order, by doubling what is compared (Manber and Myers, 1990). */
export function sortedRotations(bytes: Uint8Array): Int32Array {
  const n = bytes.length;
  const counts = new Int32Array(Math.max(n, 256) + 1);
  let ranks = Int32Array.from(bytes);
  let newRanks = new Int32Array(n);
  const order = new Int32Array(n);
  const shifted = Int32Array.from({ length: n }, (_, i) => i);
  /** `shifted` by the ranks of its places, equal ones as they stood, into `order`. */
  const sortByRank = () => {
    counts.fill(0);
    for (let i = 0; i < n; i++) counts[ranks[i]! + 1]!++;
    for (let i = 1; i < counts.length; i++) counts[i]! += counts[i - 1]!;
    for (let i = 0; i < n; i++) order[counts[ranks[shifted[i]!]!]!++] = shifted[i]!;
  };
  sortByRank();
  // After each round, `order` is right for the first `known` bytes of the rotations.
  for (let known = 1; ; known *= 2) {
    const half = known >> 1;
    let last = 0;
    for (let i = 0; i < n; i++) {
      const here = order[i]!;
      const before = order[i - 1] ?? here;
      if (ranks[here] !== ranks[before] || ranks[(here + half) % n] !== ranks[(before + half) % n]) last++;
      newRanks[here] = last;
    }
    [ranks, newRanks] = [newRanks, ranks];
    if (last === n - 1 || known >= n) return order;
    for (let i = 0; i < n; i++) shifted[i] = (order[i]! - known + n) % n;
    sortByRank();
  }
}
