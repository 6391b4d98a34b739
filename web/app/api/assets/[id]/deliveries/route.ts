import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { benchView } from '@/server/services/benchView';
import { closeDelivery, undoDelivery } from '@/server/services/deliveries';

const schema = Joi.object({ parcelId: Joi.string().uuid().required() });

/** The upload of a newer delivery is complete; a worker lays it over the asset. */
export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await closeDelivery(
      check<{ parcelId: string }>(schema, await readJson(request)).parcelId,
      await uuidParam(context),
    );
  });
}

/** Takes the newest delivery back. */
export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    const id = await uuidParam(context);
    await undoDelivery(id);
    return benchView(id);
  });
}
