import type { MakeRequest } from '@kinkajou/core/asset/makeMaps';
import { RECIPES } from '@kinkajou/core/materials/recipes/recipes';
import Joi from 'joi';

const fields = {
  materials: Joi.array().items(Joi.string().max(4096)).min(1).max(5000).required(),
  recipe: Joi.string()
    .valid(...RECIPES.map(({ id }) => id))
    .required(),
  params: Joi.object()
    .pattern(Joi.string().max(40), Joi.alternatives(Joi.number(), Joi.string().max(40)))
    .required(),
};

export const makeSchema = Joi.object<MakeRequest>(fields);
export const previewSchema = Joi.object<MakeRequest & { closeUp: boolean }>({
  ...fields,
  closeUp: Joi.boolean().default(false),
});
