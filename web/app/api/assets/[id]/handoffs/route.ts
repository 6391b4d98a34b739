import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listHandoffs, requestHandoff } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

const schema = Joi.object({ destination: Joi.string().max(100).required(), variant: Joi.string().max(10).required() });

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => ({ handoffs: await listHandoffs(await uuidParam(context)) }));
}

export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { destination, variant } = check<{ destination: string; variant: string }>(schema, await readJson(request));
    return requestHandoff(await uuidParam(context), destination, variant);
  });
}
