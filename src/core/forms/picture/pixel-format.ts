/** How the pixels of one format are packed. */
export type Channels = 'rgba' | 'rgb' | 'rg' | 'r' | 'grey' | 'grey alpha' | 'alpha';

export interface PixelFormat {
  readonly name: string;
  /** As people write it. */
  readonly title: string;
  /** Pixels along a side of a block; 1 when they lie one by one. */
  readonly side: 1 | 4;
  /** Bytes of a block. */
  readonly bytes: number;
  readonly channels: Channels;
  /** Of pixels that are numbers of colours: RGBA, four bytes each. */
  readonly palette?: { readonly of: 'index8' | 'index8a8'; readonly colours: Uint8Array };
  /** Unpacks one block to RGBA, row by row. */
  unpack(bytes: Uint8Array, at: number, out: Uint8Array): void;
  /** Unpacks many pixels that lie one by one to RGBA, where that is quicker than one at a time. */
  unpackMany?(bytes: Uint8Array, at: number, count: number): Uint8Array;
  /** Packs one pixel of RGBA; absent for blocks, which are fitted. */
  pack?(rgba: Uint8Array, from: number, out: Uint8Array, at: number): void;
}
