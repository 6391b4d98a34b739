import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, respond } from '@/server/respond';
import { compareWhole } from '@/server/services/compareWhole';

export const dynamic = 'force-dynamic';

const schema = Joi.object({ a: Joi.string().max(60).required(), b: Joi.string().max(60).required() });

/** Everything that two sides differ in besides the numbers of their channels. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const { a, b } = check<{ a: string; b: string }>(
      schema,
      Object.fromEntries(new URL(request.url).searchParams),
    );
    return compareWhole(await uuidParam(context), a, b);
  });
}
