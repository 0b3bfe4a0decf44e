/** Regions, and the order in which they can be read. */
import { FormatError } from '../../faults';
import { compileFormula } from '../formula/compile-formula';
import type { Names } from '../formula/names';
import { compileKind } from '../kinds/compile-kind';
import type { TextPath } from '../language/yaml-text';
import type { RegionText } from '../language/schema';
import type { FieldKind, Formula, Region, Search, VolumeSet } from '../model';
import { compileSteps } from './compile-step';
import { signatureBytes } from './demand';
import { formulasOf, inLine, invalid, type Setting } from './setting';

export function compileRegion(
  text: RegionText,
  index: number,
  volumes: readonly VolumeSet[],
  setting: Setting,
): Region {
  const { parsed, names } = setting;
  const path: TextPath = ['regions', index];
  const line = parsed.lineOf(path);
  const formula = formulasOf(text, path, setting, names);
  const at = formula('at');
  const holds = regionHolds(text, index, path, setting);
  const search = searchOf(text, path, line, names, setting);
  if (holds !== 'entries' && at === undefined && search === undefined)
    throw invalid(line, `region ${text.region} does not say where it is`, 'at: OFFSET, at: FORMULA or search: BYTES');
  if (holds === 'bytes' && text.length === undefined)
    throw invalid(line, `region ${text.region} does not say how long it is`, 'length: FORMULA');
  if (text.optional === true && search === undefined)
    throw invalid(
      parsed.lineOf([...path, 'optional']),
      `only a region that is searched for can be optional`,
      'search: BYTES',
    );
  const volume = text.volume ?? volumes[0]!.name;
  const set = volumes.find((one) => one.name === volume);
  if (set === undefined)
    throw invalid(line, `there is no volume ${volume}`, `one of ${volumes.map((one) => one.name).join(', ')}`);
  if (set.numbered && holds !== 'entries' && text.through !== undefined)
    throw invalid(line, `region ${text.region} is in every volume and has steps`, 'a region without through');
  const placing = (['order', 'gaps', 'tail'] as const).find((word) => text[word] !== undefined);
  if (placing !== undefined && holds !== 'entries')
    throw invalid(parsed.lineOf([...path, placing]), `${placing} is for the region that holds the entries`);
  const sorted =
    typeof holds === 'object' && holds.type.kind === 'list' && holds.type.of.kind === 'shape'
      ? holds.type.of.shape
      : undefined;
  if (text.sort !== undefined && sorted === undefined)
    throw invalid(parsed.lineOf([...path, 'sort']), 'only rows of a shape can be sorted');
  if (text.slots !== undefined && (sorted === undefined || text.sort !== undefined))
    throw invalid(parsed.lineOf([...path, 'slots']), 'slots are for a list of rows of a shape, without sort');
  const ofRow = (key: string, at: TextPath) =>
    compileFormula(key, parsed.lineOf(at), { ...names, shape: sorted, entry: true });
  const slot = (key: 'by' | 'free' | 'deleted' | 'step') => {
    const formulaText = text.slots?.[key];
    return formulaText === undefined ? undefined : ofRow(formulaText, [...path, 'slots', key]);
  };
  return {
    name: text.region,
    index,
    line,
    volume,
    eachVolume: set.numbered && holds !== 'entries',
    number: undefined,
    template: undefined,
    at,
    search,
    fixedAt: text.at !== undefined ? constantOf(text.at) : undefined,
    length: formula('length'),
    plain: formula('plain'),
    when: formula('when'),
    optional: text.optional ?? false,
    through: compileSteps(text.through ?? [], (i) => parsed.lineOf([...path, 'through', i]), names, setting),
    holds,
    align: text.align ?? 1,
    fill: text.fill ?? 0,
    order: text.order,
    gaps: text.gaps,
    tail: text.tail,
    sort: (text.sort ?? []).map((key) => ofRow(key, [...path, 'sort'])),
    slots:
      text.slots === undefined
        ? undefined
        : {
            by: slot('by')!,
            free: slot('free')!,
            deleted: slot('deleted'),
            step: slot('step'),
            full: text.slots.full ?? 75,
          },
  };
}

/** What a region of entries that are packed together cannot have. @throws FormatError `recipe-invalid` */
export function checkSolid(region: Region, others: number, inRows: boolean): void {
  if (others > 0)
    throw invalid(region.line, 'entries that are packed together lie in one region', 'one region that holds entries');
  if (inRows)
    throw invalid(
      region.line,
      'entries inside their rows are not packed together',
      'the steps on the region of the rows',
    );
  if (region.at === undefined && region.search === undefined)
    throw invalid(region.line, 'a region with steps does not say where it is', 'at: OFFSET or at: FORMULA');
}

function constantOf(text: string): number | undefined {
  return /^(0x[0-9a-f_]+|[0-9][0-9_]*)$/i.test(text) ? Number(text.replaceAll('_', '')) : undefined;
}

function regionHolds(text: RegionText, index: number, path: TextPath, setting: Setting): Region['holds'] {
  if (text.holds === 'entries' || text.holds === 'bytes') return text.holds;
  const line = setting.parsed.lineOf([...path, 'holds']);
  const space = text.through === undefined ? undefined : index;
  const names: Names = { ...setting.names, space };
  return inLine(line, () => compileKind(text.holds, { numbers: setting.numbers, names, shapes: setting.shapes, line }));
}

function searchOf(text: RegionText, path: TextPath, line: number, names: Names, setting: Setting): Search | undefined {
  if (text.search === undefined) return undefined;
  if (text.at !== undefined) throw invalid(line, `region ${text.region} has both at and search`, 'one of them');
  const quoted = /^"(.*)"$/.exec(text.search.trim());
  return {
    bytes: signatureBytes(quoted?.[1] ?? text.search, line),
    from:
      text.from === undefined ? undefined : compileFormula(text.from, setting.parsed.lineOf([...path, 'from']), names),
    backwards: text.backwards ?? false,
    within: text.within ?? Infinity,
  };
}

/** Regions in the order in which their place, length and keys can be known. */
export function readingOrder(regions: readonly Region[], always: Formula | undefined): number[] {
  const order: number[] = [];
  const state = new Map<number, 'open' | 'done'>();
  const visit = (region: Region, from: Region | undefined) => {
    if (state.get(region.index) === 'done') return;
    if (state.get(region.index) === 'open') {
      throw new FormatError({
        code: 'recipe-circular',
        line: region.line,
        what: `regions ${from?.name} and ${region.name} each need the other to be read first`,
      });
    }
    state.set(region.index, 'open');
    for (const index of neededBy(region)) if (index !== region.index) visit(regions[index]!, region);
    state.set(region.index, 'done');
    if (region.holds !== 'entries' || region.through.length > 0) order.push(region.index);
  };
  // What states the endianness comes first.
  for (const index of always?.uses.regions ?? []) visit(regions[index]!, undefined);
  for (const region of regions) visit(region, undefined);
  return order;
}

function neededBy(region: Region): Set<number> {
  const formulas = [
    region.at,
    region.length,
    region.plain,
    region.when,
    region.search?.from,
    ...region.through.flatMap((step) => [step.when, ...Object.values(step.params)]),
  ];
  const needed = new Set(formulas.flatMap((formula) => [...(formula?.uses.regions ?? [])]));
  if (typeof region.holds === 'object') for (const index of kindNeeds(region.holds)) needed.add(index);
  return needed;
}

/** Regions that counts, conditions and places inside a region's shapes refer to. */
function kindNeeds(kind: Pick<FieldKind, 'shapes' | 'needs'>, seen = new Set<unknown>()): Set<number> {
  const needed = new Set<number>(kind.needs);
  for (const shape of kind.shapes ?? []) {
    if (seen.has(shape)) continue;
    seen.add(shape);
    for (const field of shape.fields) {
      for (const formula of [field.when, field.at, field.size])
        for (const index of formula?.uses.regions ?? []) needed.add(index);
      for (const index of kindNeeds(field.kind, seen)) needed.add(index);
    }
  }
  return needed;
}
