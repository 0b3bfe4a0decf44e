/** Making a file from a recipe: an archive with changes, a patch next to it, or one from nothing. */
import type { Scratch } from '../../bytes';
import { FaultError, FormatError } from '../../faults';
import { DEFAULT_LIMITS, type Limits } from '../limits';
import type { Layout, Recipe } from '../model';
import { formulasIn } from '../proof/field-formulas';
import { missingSets, missingVolume } from '../read/volumes';
import { prepareEngines } from '../read/archive';
import type { Keys, OpenedArchive } from '../read/opened-archive';
import type { Value } from '../formula/value';
import type { Column } from '../read/columns';
import { checkPlan } from './checking/check-plan';
import type { MeantEntries } from './checking/meant';
import { refuseUnexplainedSums } from './checking/unexplained-sums';
import { draftEntries, readChangedWraps, realEdits, refuseDamagedRows } from './edits/draft-entries';
import { withMade } from './edits/made';
import { withTogether } from './edits/together';
import type { Edits, FieldEdit } from './edits/edits';
import type { DraftEntries, DraftSetting } from './model/draft';
import { orderedPools } from './evaluation/ordered-pools';
import type { PackSetting } from './packing/packer';
import { isCopy, planOfCopies, type Plan } from './rendering/planned';
import { settle, type Rest } from './settle';

export interface PlanOptions {
  readonly layout?: Layout;
  /** The main file's new name, from which those of further volumes follow. */
  readonly name?: string;
  readonly scratch: Scratch;
  readonly signal?: AbortSignal | undefined;
}

/**
 * Plans an archive with changes. Nothing is written yet, so a plan can be shown before it is chosen.
 *
 * @throws FormatError `cannot-add`, `layout-impossible`, `recipe-circular`, `volume-missing`
 */
export async function planRebuild(archive: OpenedArchive, edits: Edits, options: PlanOptions): Promise<Plan> {
  const setting: DraftSetting = {
    recipe: archive.recipe,
    keys: archive.keys,
    limits: archive.limits,
    archive,
    regionBytes: edits.regions ?? new Map(),
    fieldValues: valuesByColumn(edits.values ?? []),
    store: new Map(),
    orderedPools: await orderedPools(archive, edits),
    isPatch: options.layout === 'patch',
  };
  const { recipe } = archive;
  const { layout } = options;
  if (layout !== undefined && layout !== 'patch' && !recipe.layouts.includes(layout))
    throw new FormatError({
      code: 'layout-impossible',
      recipe: recipe.id,
      what: `the game does not load an archive that is laid out as ${layout}`,
      expected: recipe.layouts.join(' or '),
      found: layout,
    });
  const [missing] = missingSets(recipe, archive.volumes);
  if (missing !== undefined) throw missingVolume(recipe, missing, archive.outer.name);
  if (recipe.presents === 'folder' && edits.add.length + edits.remove.size > 0)
    throw new FormatError({
      code: 'cannot-add',
      recipe: recipe.id,
      what: 'files of a folder are not added or removed here: only what they hold is changed',
      hint: 'Put the file into the folder, or take it away, and scan again.',
    });
  return checkedPlan(setting, edits, options, options.name ?? archive.outer.name);
}

/**
 * Plans a new archive from a recipe alone.
 *
 * @throws FormatError `cannot-add` when the recipe leaves a field of a new file open
 */
export async function planNew(
  recipe: Recipe,
  add: Edits['add'],
  options: Omit<PlanOptions, 'layout'> & {
    readonly keys?: Keys;
    readonly limits?: Partial<Limits>;
    readonly time?: number;
  },
): Promise<Plan> {
  await prepareEngines(recipe);
  const setting: DraftSetting = {
    recipe,
    keys: options.keys ?? new Map<string, Uint8Array>(),
    limits: { ...DEFAULT_LIMITS, ...options.limits },
    archive: undefined,
    regionBytes: new Map(),
    fieldValues: new Map(),
    store: new Map(),
    orderedPools: new Set(),
    isPatch: false,
  };
  const edits: Edits = {
    replace: new Map(),
    add,
    remove: new Set(),
    ...(options.time === undefined ? {} : { time: options.time }),
  };
  return checkedPlan(setting, edits, { ...options, layout: 'afresh' }, options.name ?? `new.${recipe.id}`);
}

function valuesByColumn(values: readonly FieldEdit[]): DraftSetting['fieldValues'] {
  const byColumn = new Map<Column, Map<number, Value>>();
  for (const { place, value } of values) {
    const rows = byColumn.get(place.column) ?? new Map<number, Value>();
    byColumn.set(place.column, rows.set(place.row, value));
  }
  return byColumn;
}

async function checkedPlan(setting: DraftSetting, edits: Edits, options: PlanOptions, name: string): Promise<Plan> {
  const layout = options.layout ?? setting.recipe.layouts[0]!;
  try {
    return await planInOrder({ setting, edits, options, layout, name }, undefined);
  } catch (error) {
    const file = setting.archive === undefined ? {} : { file: setting.archive.source.name };
    throw error instanceof FaultError ? error.with({ recipe: setting.recipe.id, ...file }) : error;
  }
}

interface Planning {
  readonly setting: DraftSetting;
  readonly edits: Edits;
  readonly options: PlanOptions;
  readonly layout: Layout;
  readonly name: string;
}

/** @param known the paths in the order of their rows, where it is another than that of the edits */
async function planInOrder(planning: Planning, known: readonly string[] | undefined): Promise<Plan> {
  const { setting, options, layout, name } = planning;
  const { scratch, signal } = options;
  const { recipe, archive } = setting;
  const file = { recipe, archive, signal };
  const edits = await withTogether(file, await withMade(file, planning.edits, layout, known), layout);
  const packing: PackSetting = { ...setting, scratch, signal, wrapOf: await readChangedWraps(setting, edits) };
  const real = await realEdits(packing, edits, layout);
  if (layout !== 'patch') refuseDamagedRows(packing, real, isEmpty(real) ? 'incomplete' : 'all');
  if (archive !== undefined && recipe.entries.blocks?.at !== undefined && isEmpty(real))
    return planOfCopies(archive, name);
  const entries = await draftEntries(packing, real, layout);
  const planned = async (rest: Rest): Promise<Plan> => {
    const { plan, order, asFound } = await settle(packing, entries, layout, name, rest);
    if (asFound) return plan;
    const meant = meantEntries(packing, entries, order);
    if (known === undefined && followsRows(recipe) && changesEntries(real) && order.some((out, i) => out !== i))
      return planInOrder(
        planning,
        Array.from(order, (_, i) => meant.at(i).path),
      );
    // Without edits a damaged archive is only copied: what moves around its damage may be lost.
    const isDamaged = (archive?.entries.damaged ?? 0) > 0;
    if (isDamaged && layout !== 'patch' && isEmpty(real) && !(await isCopy(plan.volumes)))
      refuseDamagedRows(packing, real);
    if (archive !== undefined && layout !== 'patch' && changesEntries(real)) await refuseUnexplainedSums(archive, plan);
    const values = edits.values ?? [];
    await checkPlan({ ...packing, meant, regions: setting.regionBytes, values, layout }, plan);
    return plan;
  };
  if (sumsWrittenBytes(recipe)) return planned('same-bytes');
  try {
    return await planned('in-place');
  } catch (error) {
    // Something may have followed what others hold, and needed one more round.
    if (!(error instanceof FaultError) || error.fault.code !== 'check-failed') throw error;
    return planned('same-bytes');
  }
}

/** True when the content of an entry follows from the order of the rows. */
function followsRows({ entries }: Recipe): boolean {
  return entries.made.some(({ sort }) => sort === undefined);
}

/** True when a field stores a sum over bytes of the file, among them bytes that are written after it. */
function sumsWrittenBytes({ shapes }: Recipe): boolean {
  return shapes.some(({ fields }) =>
    fields.some((field) => formulasIn(field).some(({ uses }) => uses.late || uses.regionBytes.size > 0)),
  );
}

function isEmpty(edits: Edits): boolean {
  return !changesEntries(edits) && (edits.regions?.size ?? 0) === 0 && (edits.values?.length ?? 0) === 0;
}

function changesEntries({ add, replace, remove, mark }: Edits): boolean {
  return add.length + replace.size + remove.size + (mark?.length ?? 0) > 0;
}

function meantEntries({ archive }: PackSetting, entries: DraftEntries, order: Int32Array): MeantEntries {
  return {
    count: order.length,
    at: (index) => {
      const out = order[index]!;
      const fresh = entries.fresh(out);
      const base = entries.base(out);
      return {
        path: fresh?.path ?? archive!.entries.path(base!),
        base,
        plain: fresh?.plain,
        deleted: fresh?.deleted ?? archive!.entries.isDeleted(base!),
      };
    },
  };
}
