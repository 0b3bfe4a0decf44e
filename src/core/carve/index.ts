/** Files no recipe knows: what can be found in them all the same. */
export { carve, type Found } from './carve';
export { fillPlace } from './fill-place';
export { FOUND_RECIPE, foundRecipe, listFound, listingTable, type ListedBytes } from './found-recipe';
export { LOOSE_RECIPE, looseRecipe } from './loose-recipe';
