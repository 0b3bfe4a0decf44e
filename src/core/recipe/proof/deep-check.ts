/** Fields over bytes, which are compared once these have been read. */
import { readChunks } from '../../bytes';
import { FaultError, throwIfStopped, type Fault } from '../../faults';
import { isList, type FileFacts, type Value } from '../formula/value';
import type { Field } from '../model';
import { openEntry, storedSource, type OpenedEntry } from '../read/entry-bytes';
import { factsWith } from '../read/entry-facts';
import { LateHashes, spanBytes, type SpanRequest } from '../read/late-hashes';
import type { OpenedArchive } from '../read/opened-archive';
import type { RowCursor, Table } from '../read/table';
import { hashesWanted, withContent } from './entry-content';
import type { FieldComparison } from './field-comparison';
import { formulasIn } from './field-formulas';
import type { RowContext } from './row-context';
import type { Tally } from './tally';

export interface FormulaCheckOptions {
  /** Also formulas over bytes: of the file, and of all entries or of those named here, which are read for it. */
  readonly deep: boolean | ReadonlySet<number>;
  readonly signal?: AbortSignal | undefined;
  /** Entries checked so far, in a deep check. */
  readonly progress?: (done: number) => void;
}

export interface Deferred {
  readonly table: Table;
  readonly row: number;
  readonly field: Field;
  readonly entry: number;
  readonly folder: number;
  readonly place: Partial<Fault>;
  /** The file the field lies in, by its place among the opened volumes. */
  readonly volume: number;
}

/** Whether formulas over the bytes of an entry are asked for; those of no entry are, in any deep check. */
export function looksInto(deep: FormulaCheckOptions['deep'], entry: number): boolean {
  return typeof deep === 'boolean' ? deep : entry < 0 || deep.has(entry);
}

export class DeepCheck {
  constructor(
    private readonly archive: OpenedArchive,
    private readonly options: FormulaCheckOptions,
    private readonly context: RowContext,
    private readonly comparison: FieldComparison,
    private readonly tally: Tally,
  ) {}

  /** Fields over bytes: entries are read one after the other, spans of the file as they are asked for. */
  async compare(deferred: Deferred[]): Promise<void> {
    const { archive, options, context } = this;
    deferred.sort((a, b) => a.entry - b.entry);
    const wrapped = archive.recipe.entries.wrap !== undefined;
    let next = 0;
    for (const one of deferred.filter(({ entry }) => entry < 0)) {
      await this.field(one, undefined);
      next++;
    }
    for (let entry = 0; entry < archive.entries.count; entry++) {
      throwIfStopped(options.signal);
      const mine: Deferred[] = [];
      while (next < deferred.length && deferred[next]!.entry === entry) mine.push(deferred[next++]!);
      if ((mine.length === 0 && !wrapped) || !looksInto(options.deep, entry) || archive.entries.isDeleted(entry))
        continue;
      let content: ReadonlyMap<string, Value> = new Map();
      try {
        const opened = await openEntry(archive, entry);
        content = await hashesWanted(
          archive,
          opened,
          mine.map(({ field }) => field),
          options.signal,
        );
        if (opened.wrap !== undefined) await this.wrapFields(entry, opened, content);
        context.own = opened.wrap?.fields;
        for (const one of mine) await this.field(one, content);
        context.own = undefined;
      } catch (error) {
        if (!(error instanceof FaultError) || error.fault.code === 'stopped') throw error;
        const fault = {
          file: archive.source.name,
          recipe: archive.recipe.id,
          ...error.fault,
          entry: archive.entries.path(entry),
        };
        this.tally.add(false, archive.recipe.entries.line, () => fault);
        this.tally.addUnreadable(Math.max(0, mine.length - 1));
      }
      options.progress?.(entry + 1);
    }
  }

  private async field(one: Deferred, content: ReadonlyMap<string, Value> | undefined): Promise<void> {
    const { archive, context } = this;
    const { scope } = context;
    const enter = () => {
      scope.fields = one.table.row(one.row);
      context.enter(one.entry, one.folder);
      scope.volume = one.volume;
      if (content !== undefined && scope.entry !== undefined) scope.entry = withContent(scope.entry, content);
      scope.found = one.table.columns[one.field.index]!.get(one.row);
      scope.here = one.table.markedStart(one.field.index, one.row);
    };
    const ask = () => {
      enter();
      try {
        for (const formula of formulasIn(one.field)) formula.evaluate(scope);
      } catch (error) {
        // What cannot be computed is reported with its place when it is compared.
        if (!(error instanceof FaultError)) throw error;
      }
    };
    if (formulasIn(one.field).some((formula) => formula.uses.late)) {
      do ask();
      while (await archive.late.answer((request: SpanRequest) => spanBytes(archive, request)));
    } else enter();
    scope.volume = one.volume;
    this.comparison.compare(one.table, one.row, one.field, one.place);
  }

  /** Fields of the shape around the entry's bytes. */
  private async wrapFields(entry: number, opened: OpenedEntry, content: ReadonlyMap<string, Value>): Promise<void> {
    const { archive, context } = this;
    const { wrap } = opened;
    const { table, fields } = wrap!;
    const late = new LateHashes();
    const facts: FileFacts = {
      ...archive.facts,
      spanHash: (hasher, place, from, to, blank) => late.get({ hasher, ...place, from, to, blank }),
    };
    const { scope } = context;
    const outer = scope.file;
    const stored = storedSource(archive, entry);
    const place = { entry: archive.entries.path(entry), within: 'entry' };
    context.rememberBlocks(entry, opened.blocks ?? []);
    scope.file = facts;
    const row = (fields as RowCursor).row;
    const enter = () => {
      scope.fields = fields;
      context.own = fields;
      context.enter(entry, -1);
      // A wrap that stores the sizes of its blocks is the only place that knows how many there are.
      scope.entry = factsWith(withContent(scope.entry!, content), { blockCount: opened.blocks?.length ?? 0 });
    };
    for (const field of table.shape.fields) {
      if (field.is === undefined && field.parts.every((part) => part.is === undefined)) continue;
      do {
        enter();
        for (const formula of formulasIn(field)) if (!isList(fields.get(field.index))) formula.evaluate(scope);
      } while (await late.answer(({ from, to }) => readChunks(stored, from, to - from)));
      enter();
      this.comparison.compare(table, row, field, place);
    }
    context.own = undefined;
    scope.own = undefined;
    scope.file = outer;
  }
}
