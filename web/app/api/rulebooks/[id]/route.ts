import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { removeRulebook, saveRulebook, setOnArrival } from '@/server/services/rulebooks';

export const dynamic = 'force-dynamic';

export async function PUT(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return saveRulebook(await readJson(request), await uuidParam(context));
  });
}

const onArrivalSchema = Joi.object({ onArrival: Joi.boolean().required() });

/** Has it applied to whatever arrives, or no more. */
export async function PATCH(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const { onArrival } = check<{ onArrival: boolean }>(onArrivalSchema, await readJson(request));
    return { rulebooks: await setOnArrival(await uuidParam(context), onArrival) };
  });
}

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return { rulebooks: await removeRulebook(await uuidParam(context)) };
  });
}
