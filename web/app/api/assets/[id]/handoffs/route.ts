import { MAP_TYPES } from '@kinkajou/core/destinations/profile';
import { STAGE_SCHEMA } from '@kinkajou/core/scene/stage';
import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { type HandoffRequest, listHandoffs, requestHandoffs } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  requests: Joi.array()
    .items(
      Joi.object({
        destination: Joi.string().max(100).required(),
        choices: Joi.object({
          variant: Joi.string().max(10),
          size: Joi.number().min(0),
          metresPerUnit: Joi.number().positive(),
          type: Joi.string().valid(...MAP_TYPES),
          turn: Joi.number().min(0).max(3600),
          stage: STAGE_SCHEMA.allow(null),
        }).default({}),
      }),
    )
    .min(1)
    .max(40)
    .required(),
});

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => ({ handoffs: await listHandoffs(await uuidParam(context)) }));
}

/** Makes packages for one destination or for several in one go. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { requests } = check<{ requests: HandoffRequest[] }>(schema, await readJson(request));
    return { handoffs: await requestHandoffs(await uuidParam(context), requests) };
  });
}
