/** Reading a file on the way: a window that moves along it, so that shapes with data inside need not fit in memory. */
import { Cursor, type ByteSource } from '../../bytes';
import { FormatError } from '../../faults';
import type { FieldKind, Flow, ReadContext } from '../model';
import type { Column } from './table';
import { undoPoint } from './undo';

export class FileFlow implements Flow {
  private window: Cursor;
  constructor(
    private readonly source: ByteSource,
    public position: number,
    public end: number,
    private readonly maxBytes: number,
    private readonly windowBytes: number,
  ) {
    this.window = new Cursor(new Uint8Array(0), position);
  }

  private narrowed: { readonly window: Cursor; readonly cursor: Cursor } | undefined;

  skip(length: number): void {
    if (length > this.end - this.position) {
      throw new FormatError({
        code: 'cut-short',
        offset: this.position,
        expected: `${length.toLocaleString('en')} more bytes`,
        found: `${(this.end - this.position).toLocaleString('en')}`,
      });
    }
    this.position += length;
  }

  inside(kind: FieldKind, column: Column, row: number, context: ReadContext): boolean {
    const { window } = this;
    const at = this.position - window.base;
    const size = Math.min(window.bytes.length, this.end - window.base);
    if (at < 0 || at + kind.minSize > size) return false;
    const undo = undoPoint(context);
    const { beyond } = context;
    const cursor = this.confined(size);
    cursor.position = at;
    // The end of the window is not the end of the file.
    context.beyond = this.end - window.base - size;
    try {
      kind.read(cursor, column, row, context);
      this.position = cursor.offset;
      return true;
    } catch (error) {
      if (!isShort(error)) throw error;
      undo();
      context.remark = undefined;
      return false;
    } finally {
      context.beyond = beyond;
    }
  }

  small(kind: FieldKind, column: Column, row: number, context: ReadContext): Promise<void> | undefined {
    const { window } = this;
    const at = this.position - window.base;
    // What is confined must not see what lies behind.
    const size = Math.min(window.bytes.length, this.end - window.base);
    const least = kind.fixedSize ?? kind.minSize;
    if (at < 0 || at + least > size) return this.fetching(kind, column, row, context, this.windowBytes);
    // What has its whole size in the window is not read a second time with more.
    const mayRunOver = kind.fixedSize === undefined && window.base + size < this.end;
    const lengths = mayRunOver ? context.tables.lengths() : undefined;
    const { depth, beyond } = context;
    const cursor = this.confined(size);
    cursor.position = at;
    context.beyond = this.end - window.base - size;
    try {
      kind.read(cursor, column, row, context);
      this.position = cursor.offset;
      return undefined;
    } catch (error) {
      if (lengths === undefined || !isShort(error)) throw error;
      context.tables.reset(lengths);
      Object.assign(context, { depth, beyond, remark: undefined });
      return this.fetching(kind, column, row, context, this.windowBytes);
    } finally {
      context.beyond = beyond;
    }
  }

  /** The first bytes of the window: what is confined must not see what lies behind. */
  private confined(size: number): Cursor {
    const { window, narrowed } = this;
    if (size === window.bytes.length) return window;
    if (narrowed?.window === window && narrowed.cursor.bytes.length === size) return narrowed.cursor;
    const cursor = new Cursor(window.bytes.subarray(0, size), window.base);
    this.narrowed = { window, cursor };
    return cursor;
  }

  /** Fetches a window from the current place on, and a larger one as long as the instance runs over its end. */
  private async fetching(
    kind: FieldKind,
    column: Column,
    row: number,
    context: ReadContext,
    first: number,
  ): Promise<void> {
    const room = this.end - this.position;
    const { scope } = context;
    const outer = { fields: scope.fields, item: scope.item, index: scope.index, here: scope.here };
    const levels = scope.outer.length;
    for (let size = Math.min(room, first); ;) {
      this.window = new Cursor(await this.source.read(this.position, size), this.position);
      const lengths = context.tables.lengths();
      Object.assign(scope, outer);
      scope.outer.length = levels;
      const inner: ReadContext = { ...context, beyond: room - size, needed: 0 };
      try {
        kind.read(this.window, column, row, inner);
        this.position = this.window.offset;
        context.remark = inner.remark;
        return;
      } catch (error) {
        if (!isShort(error) || size >= room) throw error;
        if (size >= this.maxBytes) throw error;
        context.tables.reset(lengths);
        size = Math.min(room, Math.max(size * 4, inner.needed), this.maxBytes);
      }
    }
  }
}

/** True when bytes ran out. */
export function isShort(error: unknown): boolean {
  return error instanceof FormatError && error.fault.code === 'cut-short';
}
