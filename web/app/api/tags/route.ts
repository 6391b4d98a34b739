import { COLOUR_SPACES, type ColourSpace } from '@kinkajou/core/scene/material';
import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { previewTags, requestTags } from '@/server/services/tags';

interface Call {
  assets: string[] | null;
  to: 'channel' | ColourSpace;
  keyword: string;
  preview: boolean;
}

const schema = Joi.object({
  assets: Joi.array().items(Joi.string().uuid()).min(1).max(5000).allow(null).required(),
  to: Joi.string()
    .valid('channel', ...COLOUR_SPACES)
    .required(),
  keyword: Joi.string().trim().allow('').max(200).required(),
  preview: Joi.boolean().required(),
});

/** Starts a job that repairs colour tags over several assets, or tells what it would change. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { assets, to, keyword, preview } = check<Call>(schema, await readJson(request));
    const repair = { to, keyword };
    return preview ? previewTags(assets, repair) : { job: await requestTags(assets, repair) };
  });
}
