import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { benchView } from '@/server/services/benchView';
import { removeAsset } from '@/server/services/removal';

export const dynamic = 'force-dynamic';

/** The asset with its state, findings and edit log, as scripts read it. */
export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => benchView(await uuidParam(context)));
}

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await removeAsset(await uuidParam(context));
  });
}
