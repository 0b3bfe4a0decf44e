/** A plain BMP of 24 bits, for tests: the application reads BMP and does not write it. */
export function writeBmpForTest(width: number, height: number): Uint8Array {
  const row = Math.ceil((width * 3) / 4) * 4;
  const out = Buffer.alloc(54 + row * height, 0x55);
  out.fill(0, 0, 54);
  out.write('BM', 0, 'latin1');
  out.writeUInt32LE(out.length, 2);
  out.writeUInt32LE(54, 10);
  out.writeUInt32LE(40, 14);
  out.writeInt32LE(width, 18);
  out.writeInt32LE(height, 22);
  out.writeUInt16LE(1, 26);
  out.writeUInt16LE(24, 28);
  return out;
}
