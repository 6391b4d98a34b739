import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { learnRules } from '@/server/services/rulebooks';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  edits: Joi.array().items(Joi.number().integer().min(1)).min(1).max(100_000).required(),
});

/** Makes a rulebook of some edits of the log. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { edits } = check<{ edits: number[] }>(schema, await readJson(request));
    return learnRules(await uuidParam(context), edits);
  });
}
