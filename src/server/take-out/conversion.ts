/** What an entry goes out as: as it is, or converted to files of an open format by its form. */
import { labelAsName } from '../changes';
import { FORMS, type ConvertedFile, type OutPlan, type TakeOutChoices } from '../forms';
import type { KindName, OutgoingEntry, TakeOutOrder } from '../shapes';

/** What entries become, with what has to be known of all that go out together. */
export interface Conversion {
  readonly order: TakeOutChoices;
  /** By the kinds that do not go out as they are. */
  readonly plans: ReadonlyMap<KindName, OutPlan>;
}

export async function conversionOf(
  gameId: number,
  order: TakeOutChoices,
  entries: readonly OutgoingEntry[],
): Promise<Conversion> {
  const paths = new Set(entries.map(({ path }) => path));
  const plans = new Map<KindName, OutPlan>();
  for (const { kind, planOut } of FORMS) {
    const plan = await planOut?.({ gameId, order, entries: entries.filter((entry) => entry.kind === kind), paths });
    if (plan !== undefined) plans.set(kind, plan);
  }
  return { order, plans };
}

/** Those that go out in files of their own: what holds a part of a picture or a film goes out in that. */
export function wholeEntries(
  form: TakeOutOrder['form'],
  entries: readonly OutgoingEntry[],
  { plans }: Conversion,
): readonly OutgoingEntry[] {
  if (form !== 'open') return entries;
  const all = [...plans.values()];
  return entries.filter((entry) => !all.some((plan) => plan.isWithin?.(entry) === true));
}

/** What becomes of an entry; undefined where it goes out as it is. */
export function planFor(entry: OutgoingEntry, { plans }: Conversion): OutPlan | undefined {
  const plan = plans.get(entry.kind);
  return plan?.converts(entry) === true ? plan : undefined;
}

/** Where an entry goes, before the path is made fit for the file system. */
export function nameFor(
  entry: OutgoingEntry,
  { order: { layout }, plans }: Conversion,
  as: string | undefined,
): string {
  const { label } = entry;
  const path = plans.get(entry.kind)?.pathOf?.(entry) ?? entry.path;
  const slash = path.lastIndexOf('/') + 1;
  const dot = path.lastIndexOf('.') > slash ? path.lastIndexOf('.') : path.length;
  const ending = as === undefined ? path.slice(dot) : `.${as}`;
  const name = layout === 'labels' && label !== null ? labelAsName(label) : path.slice(slash, dot);
  return `${layout === 'flat' ? '' : path.slice(0, slash)}${name}${ending}`;
}

export function withSuffix(path: string, { suffix, ending }: Pick<ConvertedFile, 'suffix' | 'ending'>): string {
  const dot = path.lastIndexOf('.');
  return `${path.slice(0, dot)}${suffix}${ending ?? path.slice(dot)}`;
}
