import { KinkajouError } from '../../errors.ts';
import { bakeTint } from './bakeTint.ts';
import { makeMetalRough } from './makeMetalRough.ts';
import { makeLegacy, makeSpecGloss } from './makeSpecGloss.ts';
import { padEdges, undoPremultiplied } from './mendEdges.ts';
import { normalFromGrey } from './normalFromGrey.ts';
import type { Recipe } from './recipe.ts';
import { removeOcclusion } from './removeOcclusion.ts';

/** Every way to make new images from a material's own. A new one is one file and one line here. */
export const RECIPES: readonly Recipe[] = [
  makeMetalRough,
  makeSpecGloss,
  makeLegacy,
  bakeTint,
  normalFromGrey,
  removeOcclusion,
  undoPremultiplied,
  padEdges,
];

/** Throws `recipe.unknown`. */
export function recipeOf(id: string): Recipe {
  const recipe = RECIPES.find((recipe) => recipe.id === id);
  if (!recipe)
    throw new KinkajouError(
      'recipe.unknown',
      `"${id}" is no recipe`,
      {},
      `Use one of ${RECIPES.map((recipe) => recipe.id).join(', ')}.`,
    );
  return recipe;
}
