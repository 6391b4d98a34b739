import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { type PixelPlace, readPixels } from '@/server/services/pixels';

const place = Joi.object({
  sha256: Joi.string()
    .pattern(/^[0-9a-f]{64}$/)
    .required(),
  path: Joi.string().max(4096).required(),
  x: Joi.number().integer().min(0).required(),
  y: Joi.number().integer().min(0).required(),
});
const schema = Joi.object({ places: Joi.array().items(place).min(1).max(64).required() });

/** Single pixels of stored images at their own depth, components in 0..1 or floats as stored. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { places } = check<{ places: PixelPlace[] }>(schema, await readJson(request));
    return { pixels: await readPixels(places) };
  });
}
