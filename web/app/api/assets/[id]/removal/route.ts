import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { bringBack, hangingOn } from '@/server/services/removal';

export const dynamic = 'force-dynamic';

/** What would go with the asset. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => hangingOn(await uuidParam(context)));
}

/** Takes the removal back. */
export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await bringBack(await uuidParam(context));
  });
}
