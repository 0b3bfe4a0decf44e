/** Plain samples, of whatever width: they go into WAVE and out of it byte for byte. */

/** The format tag of WAVE and the bits of a sample, for each kind of plain samples; little-endian throughout. */
export const PCM_CODECS = {
  'pcm-u8': { tag: 1, bits: 8, title: 'PCM of 8 bits' },
  'pcm-s16': { tag: 1, bits: 16, title: 'PCM of 16 bits' },
  'pcm-s24': { tag: 1, bits: 24, title: 'PCM of 24 bits' },
  'pcm-s32': { tag: 1, bits: 32, title: 'PCM of 32 bits' },
  'pcm-f32': { tag: 3, bits: 32, title: 'PCM as 32-bit float' },
} as const;
export type PcmCodec = keyof typeof PCM_CODECS;

export const isPcm = (codec: string): codec is PcmCodec => codec in PCM_CODECS;

/** Samples as fractions of full scale, one by one. */
export function pcmReader(bytes: Uint8Array, codec: PcmCodec): (i: number) => number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  switch (codec) {
    case 'pcm-u8':
      return (i) => (view.getUint8(i) - 128) / 0x80;
    case 'pcm-s16':
      return (i) => view.getInt16(i * 2, true) / 0x8000;
    case 'pcm-s24':
      return (i) => ((view.getInt8(i * 3 + 2) << 16) | view.getUint16(i * 3, true)) / 0x80_0000;
    case 'pcm-s32':
      return (i) => view.getInt32(i * 4, true) / 0x8000_0000;
    case 'pcm-f32':
      return (i) => view.getFloat32(i * 4, true);
  }
}

/** Samples of 16 bits as another width has them. */
export function pcmBytes(samples: Int16Array, codec: PcmCodec): Uint8Array {
  const width = PCM_CODECS[codec].bits / 8;
  const out = new DataView(new ArrayBuffer(samples.length * width));
  samples.forEach((value, i) => {
    const at = i * width;
    if (codec === 'pcm-u8') out.setUint8(at, (value >> 8) + 128);
    else if (codec === 'pcm-s16') out.setInt16(at, value, true);
    else if (codec === 'pcm-s24') {
      out.setUint8(at, 0);
      out.setInt16(at + 1, value, true);
    } else if (codec === 'pcm-s32') out.setInt32(at, value * 0x1_0000, true);
    else out.setFloat32(at, value / 0x8000, true);
  });
  return new Uint8Array(out.buffer);
}
