import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, readJson, respond } from '@/server/respond';
import { type HandoffRequest, previewPlan } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  destination: Joi.string().max(100).default(''),
  choices: Joi.object().unknown().default({}),
  profile: Joi.object().unknown(),
});

/**
 * What a handoff would write and lose. A POST, since it may carry a whole destination that is not saved yet;
 * it changes nothing.
 */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const body = (await readJson(request)) as { profile?: unknown };
    const required = check<HandoffRequest>(schema, body);
    return previewPlan(await uuidParam(context), required, body.profile);
  });
}
