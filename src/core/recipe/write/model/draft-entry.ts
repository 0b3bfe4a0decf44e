/** What formulas see of one entry of the new file. Each fact is worked out when it is asked for: most rows ask for one. */
import type { EntryFacts, Value } from '../../formula/value';
import type { ContentPart } from '../../model';
import type { OpenedArchive } from '../../read/opened-archive';
import type { Draft } from './draft';
import type { NewBytes } from './new-bytes';

export class DraftEntry implements EntryFacts {
  private readonly fresh: NewBytes | undefined;
  private readonly base: number | undefined;
  private known: EntryFacts | undefined;

  constructor(
    private readonly draft: Draft,
    private readonly out: number,
  ) {
    this.fresh = draft.entries.fresh(out);
    this.base = draft.entries.base(out);
  }

  private get archive(): OpenedArchive {
    return this.draft.setting.archive!;
  }
  /** The entry as it was found. */
  private get before(): EntryFacts | undefined {
    if (this.base === undefined) return undefined;
    return (this.known ??= this.archive.entries.facts(this.base));
  }

  get index(): number {
    return this.draft.order.positionOf(this.out);
  }
  get path(): string {
    return this.draft.path(this.out);
  }
  get at(): number {
    // A marker lies nowhere.
    return this.fresh?.deleted === true ? 0 : this.draft.placeOf(this.out);
  }
  get stored(): number {
    return this.fresh?.stored.size ?? this.archive.entries.stored(this.base!);
  }
  get size(): number {
    return this.fresh?.plainSize ?? this.archive.entries.size(this.base!);
  }
  get method(): Value {
    return this.fresh === undefined ? this.archive.entries.method(this.base!) : this.fresh.method;
  }
  get volume(): number {
    return this.draft.volumes[this.draft.entryVolume[this.out]!]?.number ?? this.before?.volume ?? 0;
  }
  get volumeSet(): string {
    return this.draft.volumes[this.draft.entryVolume[this.out]!]?.set ?? this.before?.volumeSet ?? '';
  }
  get time(): number | undefined {
    return this.fresh?.time ?? this.before?.time;
  }
  get deleted(): boolean {
    return this.fresh?.deleted ?? this.archive.entries.isDeleted(this.base!);
  }
  get hash(): Value {
    return this.draft.hashOf(this.path, this.base);
  }
  get id(): Value {
    return this.before?.id ?? this.index;
  }
  get folderIndex(): number {
    return this.draft.folderOfEntry(this.out);
  }
  get firstBlock(): number {
    return this.draft.setting.recipe.entries.blocks?.each === undefined ? 0 : this.draft.firstBlockOf(this.out);
  }
  get blockCount(): number {
    return this.draft.blockCountOf(this.out);
  }
  content(which: ContentPart, hasher: string): Value {
    return this.fresh?.hashes.get(`${which}:${hasher}`);
  }
}
