import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, respond } from '@/server/respond';
import { type CompareRequest, compareSides } from '@/server/services/compare';

export const dynamic = 'force-dynamic';

const schema = Joi.object({
  a: Joi.string().max(60).required(),
  b: Joi.string().max(60).required(),
  material: Joi.string().max(4096).required(),
  limit: Joi.number().min(0).max(1).required(),
});

/** How one material differs between two sides. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const expected = check<CompareRequest>(schema, Object.fromEntries(new URL(request.url).searchParams));
    return { channels: await compareSides(await uuidParam(context), expected) };
  });
}
