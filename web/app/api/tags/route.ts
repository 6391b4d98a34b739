import { COLOUR_SPACES, type ColourSpace } from '@kinkajou/core/scene/material';
import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { repairTags } from '@/server/services/tags';

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

/** Repairs colour tags over several assets, or tells what would change. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { assets, to, keyword, preview } = check<Call>(schema, await readJson(request));
    return repairTags(assets, { to, keyword }, preview);
  });
}
