import Joi from 'joi';
import { type RouteParams, uuidParam } from '@/server/params';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { unwatchFolder, watchFolder } from '@/server/services/watches';

const schema = Joi.object({ path: Joi.string().trim().min(1).max(4096).required() });

/** Watches a folder on the server's disk: its changes become new deliveries. */
export async function PUT(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await watchFolder(
      await uuidParam(context),
      check<{ path: string }>(schema, await readJson(request)).path,
    );
  });
}

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await unwatchFolder(await uuidParam(context));
  });
}
