/** A worker of the page: unpacks the pixels of a picture, which may take a while, aside from what is drawn. */
import { findPixelFormat } from '../core/forms/picture/pixel-formats';
import { unpackPixels } from '../core/forms/picture/unpack';

export interface UnpackOrder {
  readonly id: number;
  readonly format: string;
  readonly width: number;
  readonly height: number;
  readonly bytes: Uint8Array;
}

export interface UnpackReply {
  readonly id: number;
  /** RGBA; absent when the pixels could not be unpacked. */
  readonly rgba?: Uint8Array;
}

addEventListener('message', ({ data }: MessageEvent<UnpackOrder>) => {
  const { id, format, width, height, bytes } = data;
  const known = findPixelFormat(format);
  const rgba = known === undefined ? undefined : unpackPixels(known, bytes, width, height);
  postMessage({ id, ...(rgba === undefined ? {} : { rgba }) } satisfies UnpackReply);
});
