/** Bytes of regions in the making: what is written, and the stretches that are only named. */
import { ByteWriter } from '../../../bytes';
import type { FoundPart, RegionWriter, SplicedBytes } from '../../model';

/** A stretch between written bytes. */
interface Splice {
  readonly stretch: SplicedBytes;
  /** How many written bytes lie before it. */
  readonly after: number;
}

/** A part of a region that lies apart from the others. */
export interface ApartPiece {
  readonly found: FoundPart | undefined;
  readonly align: number;
  readonly pieces: Pieces;
}

export class Pieces extends ByteWriter implements RegionWriter {
  readonly splices: Splice[] = [];
  readonly apartPieces: ApartPiece[];
  private spliced = 0;

  /**
   * @param base offset of the first byte
   * @param apartAt where the n-th part that lies apart came to lie in the round before
   */
  constructor(
    readonly base: number,
    private readonly apartAt: (index: number) => number | undefined,
    apartPieces: ApartPiece[] = [],
  ) {
    super();
    this.apartPieces = apartPieces;
  }

  get position(): number {
    return this.base + this.length + this.spliced;
  }
  /** Bytes in all, named stretches included. */
  get total(): number {
    return this.length + this.spliced;
  }
  splice(stretch: SplicedBytes): void {
    this.splices.push({ stretch, after: this.length });
    this.spliced += stretch.length;
  }
  apart(found: FoundPart | undefined, align: number, write: (writer: RegionWriter) => void): void {
    const index = this.apartPieces.length;
    const place = this.apartAt(index) ?? found?.at ?? 0;
    const inner = new Pieces(place, this.apartAt, this.apartPieces);
    // Its number is taken before what it holds asks for places of its own.
    const slot: { found: FoundPart | undefined; align: number; pieces: Pieces } = { found, align, pieces: inner };
    this.apartPieces.push(slot);
    write(inner);
  }
  /** Its stretches in order: written bytes and named ones. */
  *stretches(): Generator<{ at: number; bytes?: Uint8Array; spliced?: SplicedBytes }> {
    let from = 0;
    let at = this.base;
    const bytes = this.bytes();
    for (const { stretch, after } of this.splices) {
      if (after > from) yield { at, bytes: bytes.subarray(from, after) };
      at += after - from;
      from = after;
      yield { at, spliced: stretch };
      at += stretch.length;
    }
    if (bytes.length > from) yield { at, bytes: bytes.subarray(from) };
  }
}
