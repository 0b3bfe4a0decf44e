/** Writing entries that are packed together: where each lies in the plain bytes, and these packed as one. */
import { RangeSet, type ByteSource } from '../../../bytes';
import { LimitError } from '../../../faults';
import { scopeOf } from '../../formula/value';
import type { Region } from '../../model';
import { spaceRule } from '../placement/data-rule';
import { encodeWhole, prepareChain, sameChain, type Chain } from '../../read/through';
import type { Draft } from '../model/draft';
import type { Layout } from '../../model';

export class SolidWriter {
  private readonly keeps: boolean;
  private readonly inRowOrder: boolean;
  private readonly dense: boolean;
  /** Plain bytes of the whole region. */
  private size = 0;
  private plain: Uint8Array | undefined;
  private packed: { readonly plain: Uint8Array; readonly chain: Chain; readonly stored: Uint8Array } | undefined;
  private placedFor: number | undefined;

  constructor(
    private readonly draft: Draft,
    readonly region: Region,
    layout: Layout,
  ) {
    const { archive } = draft.setting;
    this.keeps = archive !== undefined && layout !== 'afresh' && layout !== 'patch';
    const found = archive === undefined ? undefined : spaceRule(archive, region);
    this.inRowOrder = (region.order ?? found?.order ?? 'rows') === 'rows';
    this.dense = (region.gaps ?? found?.gaps ?? 'none') === 'none';
  }

  /** The plain bytes of the file that was found. */
  private get space(): ByteSource | undefined {
    return this.draft.setting.archive?.dataSpace;
  }

  /** Gives every entry its place, for the order the entries have now. */
  private place(): void {
    const { version } = this.draft.order;
    if (this.placedFor === version) return;
    this.placedFor = version;
    this.plain = undefined;
    const end = this.placeEntries();
    const last = this.keeps && !this.dense ? this.unexplained().at(-1) : undefined;
    this.size = Math.max(end, last === undefined ? 0 : last.at + last.length);
  }

  /**
   * Where it was while there is room and the format leaves gaps, else behind the one before; entries that share bytes go on
   * sharing them.
   *
   * @returns the end of the last
   */
  private placeEntries(): number {
    const { draft, region } = this;
    const { entries, setting, order } = draft;
    const table = setting.archive?.entries;
    const outs = Array.from({ length: entries.count }, (_, i) => order.at(i)).filter((out) => !draft.isMarker(out));
    const from = (out: number) => {
      const base = entries.base(out);
      return base === undefined ? Infinity : table!.at(base);
    };
    if (table !== undefined && !this.inRowOrder)
      outs.sort((a, b) =>
        from(a) === from(b) ? order.positionOf(a) - order.positionOf(b) : from(a) < from(b) ? -1 : 1,
      );
    const keeps = this.keeps && !this.dense;
    const shared = new Map<string, number>();
    let end = 0;
    let last: { readonly from: number; readonly to: number; readonly at: number } | undefined;
    for (const out of outs) {
      const stays = entries.fresh(out) === undefined;
      const length = this.lengthOf(out);
      const was = from(out);
      const key = `${was}+${length}`;
      const known = stays && length > 0 ? shared.get(key) : undefined;
      const inside = stays && last !== undefined && was >= last.from && was < last.to;
      if (known !== undefined || inside) {
        // Bytes shared with an entry before, or with a part of it.
        draft.entryAt[out] = known ?? last!.at + was - last!.from;
        end = Math.max(end, draft.entryAt[out]! + length);
        continue;
      }
      const aligned = Math.ceil(end / region.align) * region.align;
      const at = keeps && was !== Infinity && was >= end ? was : length === 0 ? this.emptyAt(out, aligned) : aligned;
      draft.entryAt[out] = at;
      end = Math.max(end, at + length);
      if (length === 0) continue;
      last = stays ? { from: was, to: was + length, at } : undefined;
      if (stays) shared.set(key, at);
    }
    return end;
  }

  /** Entries of no bytes lie where they did while there is such a place. */
  private emptyAt(out: number, otherwise: number): number {
    const base = this.draft.entries.base(out);
    const was = base === undefined ? undefined : this.draft.setting.archive!.entries.at(base);
    return was !== undefined && was <= otherwise ? was : otherwise;
  }

  private lengthOf(out: number): number {
    const { entries, setting } = this.draft;
    return entries.fresh(out)?.stored.size ?? setting.archive!.entries.stored(entries.base(out)!);
  }

  /** Stretches of the plain bytes that were found which no entry of then explains. They stay. */
  private unexplained(): readonly { readonly at: number; readonly length: number }[] {
    const table = this.draft.setting.archive!.entries;
    const explained = new RangeSet();
    for (let entry = 0; entry < table.count; entry++)
      if (!table.isDeleted(entry)) explained.add(table.at(entry), table.stored(entry));
    return explained.missing(this.space?.size ?? 0);
  }

  /**
   * The plain bytes of the new region.
   *
   * @throws LimitError when they are more than may be held at once
   */
  async plainBytes(): Promise<Uint8Array> {
    this.place();
    if (this.plain !== undefined) return this.plain;
    const { draft, region, size } = this;
    const { limits } = draft.setting;
    if (size > limits.maxRegionBytes)
      throw new LimitError({
        code: 'limit-reached',
        region: region.name,
        line: region.line,
        what: 'entries that are packed together are too large to be packed anew',
        found: `${size.toLocaleString('en')} bytes`,
        limit: `maxRegionBytes, ${limits.maxRegionBytes.toLocaleString('en')}`,
      });
    const bytes = new Uint8Array(size).fill(region.fill);
    if (this.keeps && !this.dense)
      for (const { at, length } of this.unexplained()) bytes.set(await this.space!.read(at, length), at);
    const { entries, setting } = draft;
    for (let out = 0; out < entries.count; out++) {
      if (draft.isMarker(out)) continue;
      const fresh = entries.fresh(out);
      const source = fresh?.stored ?? this.space!;
      const from = fresh === undefined ? setting.archive!.entries.at(entries.base(out)!) : 0;
      bytes.set(await source.read(from, this.lengthOf(out)), draft.entryAt[out]!);
    }
    return (this.plain = bytes);
  }

  /** The stored bytes: those that were found while nothing in them changed, else packed again. */
  async storedBytes(volume: number): Promise<Uint8Array | 'as found'> {
    const { draft, region } = this;
    const { archive, limits } = draft.setting;
    const plain = await this.plainBytes();
    const options = { plainSize: plain.length, maxPlainBytes: limits.maxRegionBytes, choose: true };
    const chain = prepareChain(region.through, { scope: { ...scopeOf(draft.facts), volume }, ...options });
    if (archive !== undefined && this.space?.size === plain.length) {
      const before = prepareChain(region.through, { scope: { ...scopeOf(archive.facts), volume }, ...options });
      if (sameChain(chain, before) && Buffer.compare(await this.space.read(0, plain.length), plain) === 0)
        return 'as found';
    }
    if (this.packed === undefined || this.packed.plain !== plain || !sameChain(this.packed.chain, chain))
      this.packed = { plain, chain, stored: encodeWhole(plain, chain) };
    return this.packed.stored;
  }
}
