/** Regions that are in every one of numbered volumes, such as the head of each. */
import type { Recipe, Region } from '../model';

/** A volume as far as regions are concerned: the name of its set, and its number there. */
export interface VolumeFacts {
  readonly set: string;
  readonly number: number;
}

/** The region as the recipe has it, which represents one of each volume and lies nowhere itself. */
export function isTemplate({ eachVolume, number }: Region): boolean {
  return eachVolume && number === undefined;
}

export function liesIn(region: Region, { set, number }: VolumeFacts): boolean {
  return region.volume === set && (region.number === undefined || region.number === number);
}

/** Where a region is in the recipe; those of each volume are where the recipe has the one for all. */
export function orderOf({ index, template }: Region): number {
  return template ?? index;
}

/** The recipe with one region for each volume of a set, behind those it has. What it has keeps its number. */
export function forVolumes(recipe: Recipe, volumes: readonly VolumeFacts[]): Recipe {
  const templates = recipe.regions.filter(isTemplate);
  if (templates.length === 0) return recipe;
  const regions = [...recipe.regions];
  for (const volume of volumes) {
    for (const template of templates) {
      if (template.volume !== volume.set) continue;
      const known = regions.some((region) => region.template === template.index && region.number === volume.number);
      if (!known) regions.push({ ...template, index: regions.length, number: volume.number, template: template.index });
    }
  }
  const own = recipe.readingOrder.filter((index) => regions[index]!.template === undefined);
  const readingOrder = own.flatMap((index) => [
    index,
    ...regions.filter(({ template }) => template === index).map((region) => region.index),
  ]);
  return { ...recipe, regions, readingOrder };
}
