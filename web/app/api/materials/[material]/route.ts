import Joi from 'joi';
import { numberParam, type RouteParams } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { dropFromShelf, previewReplacing, requestReplacing } from '@/server/services/materials';

const schema = Joi.object({
  pattern: Joi.string().trim().min(1).max(400).required(),
  assetId: Joi.string().uuid().allow(null).required(),
  preview: Joi.boolean().required(),
});

/** Starts a job that puts a kept material in the place of those whose names fit, or tells which those are. */
export async function POST(request: Request, context: RouteParams<'material'>) {
  return respond(async () => {
    checkOrigin(request);
    const { pattern, assetId, preview } = check<{
      pattern: string;
      assetId: string | null;
      preview: boolean;
    }>(schema, await readJson(request));
    const material = await numberParam(context, 'material');
    return preview
      ? previewReplacing(material, pattern, assetId)
      : { job: await requestReplacing(material, pattern, assetId) };
  });
}

export async function DELETE(request: Request, context: RouteParams<'material'>) {
  return respond(async () => {
    checkOrigin(request);
    return { materials: await dropFromShelf(await numberParam(context, 'material')) };
  });
}
