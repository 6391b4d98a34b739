import Joi from 'joi';
import { SHELF_STATES } from '../wire/shelf.ts';

/** Filters of the shelf as a request writes them. */
export const SHELF_FILTER = {
  search: Joi.string().allow('').max(400),
  state: Joi.string().valid(...SHELF_STATES),
  code: Joi.string().max(100),
  mended: Joi.string().max(100),
  format: Joi.string().valid('fbx', 'obj', 'usd', 'gltf'),
  generator: Joi.string().allow('').max(1000),
  parcel: Joi.string().uuid(),
  handed: Joi.boolean(),
  longer: Joi.number().min(0),
  shorter: Joi.number().min(0),
};
