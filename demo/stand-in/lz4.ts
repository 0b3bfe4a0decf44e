/**
 * Decodes one LZ4 block, after the published description of the block format: a token of two lengths, literals, then a
 * match given by a 16-bit distance.
 *
 * @returns the plain bytes, or undefined when the block breaks a rule
 */
export function decodeLz4Block(block: Uint8Array, size: number): Buffer | undefined {
  const out = Buffer.alloc(size);
  let from = 0;
  let to = 0;
  const longer = (length: number): number => {
    if (length !== 15) return length;
    let total = 15;
    for (;;) {
      const byte = block[from++];
      if (byte === undefined) return -1;
      total += byte;
      if (byte !== 255) return total;
    }
  };
  while (from < block.length) {
    const token = block[from++]!;
    const literals = longer(token >> 4);
    if (literals < 0 || from + literals > block.length || to + literals > size) return undefined;
    out.set(block.subarray(from, from + literals), to);
    from += literals;
    to += literals;
    // The last sequence has no match.
    if (from === block.length) break;
    const distance = block[from]! | ((block[from + 1] ?? 0) << 8);
    from += 2;
    const match = longer(token & 15) + 4;
    if (distance === 0 || distance > to || match < 4 || to + match > size) return undefined;
    for (let i = 0; i < match; i++, to++) out[to] = out[to - distance]!;
  }
  return to === size ? out : undefined;
}
