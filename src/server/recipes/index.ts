export { exportCollection, importCollection } from './collections';
export { endingsOf, formRecipeOf, kindByRecipe, kindsByEnding, partsOfPictures, presentsForm } from './form-recipes';
export { formsStamp, knownRecipes, listRecipes, recipesUsedIn, saveRecipe, scannedRecipes } from './recipe-service';
export { vocabulary } from '../../core/recipe';
export { checkTexts } from './thread';
export { checkRecipe, hintsFor, tryRecipe } from './workbench';
