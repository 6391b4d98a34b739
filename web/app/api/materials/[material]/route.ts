import Joi from 'joi';
import { numberParam, type RouteParams } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { dropFromShelf, replaceByName } from '@/server/services/materials';

const schema = Joi.object({
  pattern: Joi.string().trim().min(1).max(400).required(),
  assetId: Joi.string().uuid().allow(null).required(),
  preview: Joi.boolean().required(),
});

/** Puts a kept material in the place of those whose names fit. */
export async function POST(request: Request, context: RouteParams<'material'>) {
  return respond(async () => {
    checkOrigin(request);
    const { pattern, assetId, preview } = check<{ pattern: string; assetId: string | null; preview: boolean }>(schema, await readJson(request));
    return replaceByName(await numberParam(context, 'material'), pattern, assetId, preview);
  });
}

export async function DELETE(request: Request, context: RouteParams<'material'>) {
  return respond(async () => {
    checkOrigin(request);
    return { materials: await dropFromShelf(await numberParam(context, 'material')) };
  });
}
