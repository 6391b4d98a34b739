import type { SlotAddress } from '@kinkajou/core/asset/asset';
import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { completeParams, type Recipe } from '@kinkajou/core/materials/recipes/recipe';
import { RECIPES } from '@kinkajou/core/materials/recipes/recipes';
import type { Material } from '@kinkajou/core/scene/material';
import type { Finder } from '@/ui/commands/finders';
import { plural } from '@/ui/format';

/**
 * The list of commands leads to what new images can be made of the chosen materials; of all others, where none
 * of the chosen has what a recipe needs.
 */
export function recipeFinder(
  materials: readonly Material[],
  selected: () => readonly SlotAddress[],
  open: (request: MakeRequest) => void,
): Finder {
  return {
    heading: 'New images',
    find() {
      const chosen = new Set(selected().map(({ material }) => material));
      return RECIPES.flatMap((recipe) => {
        const fit = fittingMaterials(recipe, materials, chosen);
        if (fit.length === 0) return [];
        return {
          key: recipe.id,
          title: recipe.title,
          detail: fit.length === 1 ? fit[0] : plural(fit.length, 'material'),
          words: `make new images ${recipe.does}`,
          go: () => open({ materials: fit, recipe: recipe.id, params: {} }),
        };
      });
    },
  };
}

function fittingMaterials(
  recipe: Recipe,
  materials: readonly Material[],
  chosen: ReadonlySet<string>,
): string[] {
  const params = completeParams(recipe.params, {});
  const fit = materials.filter((material) => recipe.refuses(material, params) === null).map(({ key }) => key);
  const ofThese = fit.filter((key) => chosen.has(key));
  return ofThese.length > 0 ? ofThese : fit;
}
