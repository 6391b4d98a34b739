import { parseEdit } from '@kinkajou/core/edits/schema';
import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { addEdits } from '@/server/services/edits';

const schema = Joi.object({ edits: Joi.array().items(Joi.object().unknown()).min(1).max(5000).required() });

export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { edits } = check<{ edits: unknown[] }>(schema, await readJson(request));
    return addEdits(await uuidParam(context), edits.map(parseEdit));
  });
}
