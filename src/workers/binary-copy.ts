/** Rows of COPY in the binary format of PostgreSQL ("COPY", File Formats, Binary Format), without an object for each. */
import type { Readable } from 'node:stream';

const SIGNATURE = 'PGCOPY\n\xff\r\n\0';
/** The signature, flags, and the length of an extension that is never there. */
const HEAD_BYTES = SIGNATURE.length + 8;

/** The fields of the row that is at hand; they last until the next row. */
export interface RowFields {
  bytes(field: number): Uint8Array;
  text(field: number): string;
  /** An `int4` or `int8`. */
  whole(field: number): number;
}

/** @throws Error when it is no such stream */
export async function* binaryRows(stream: Readable): AsyncGenerator<RowFields> {
  let rest: Buffer = Buffer.alloc(0);
  let begun = false;
  const row = new Row();
  for await (const chunk of stream) {
    let bytes = rest.length === 0 ? (chunk as Buffer) : Buffer.concat([rest, chunk as Buffer]);
    if (!begun) {
      if (bytes.length < HEAD_BYTES) {
        rest = bytes;
        continue;
      }
      if (bytes.toString('latin1', 0, SIGNATURE.length) !== SIGNATURE) throw new Error('no binary COPY');
      begun = true;
      bytes = bytes.subarray(HEAD_BYTES);
    }
    let at = 0;
    for (;;) {
      const next = row.take(bytes, at);
      if (next < 0) break;
      at = next;
      yield row;
    }
    rest = bytes.subarray(at);
  }
}

class Row implements RowFields {
  private from: Buffer = Buffer.alloc(0);
  private readonly starts: number[] = [];
  private readonly lengths: number[] = [];

  /** @returns where the next row begins; -1 when this one is not whole, or was the last */
  take(bytes: Buffer, at: number): number {
    if (at + 2 > bytes.length) return -1;
    const count = bytes.readInt16BE(at);
    if (count < 0) return -1;
    let next = at + 2;
    for (let field = 0; field < count; field++) {
      if (next + 4 > bytes.length) return -1;
      const length = Math.max(0, bytes.readInt32BE(next));
      if (next + 4 + length > bytes.length) return -1;
      this.starts[field] = next + 4;
      this.lengths[field] = length;
      next += 4 + length;
    }
    this.from = bytes;
    return next;
  }

  bytes(field: number): Uint8Array {
    const start = this.starts[field]!;
    return this.from.subarray(start, start + this.lengths[field]!);
  }
  text(field: number): string {
    const start = this.starts[field]!;
    return this.from.toString('utf8', start, start + this.lengths[field]!);
  }
  whole(field: number): number {
    const start = this.starts[field]!;
    return this.lengths[field] === 4
      ? this.from.readInt32BE(start)
      : this.from.readInt32BE(start) * 0x1_0000_0000 + this.from.readUInt32BE(start + 4);
  }
}
