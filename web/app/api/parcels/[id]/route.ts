import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { findParcel } from '@/server/services/parcelFiles';
import { removeParcel } from '@/server/services/removal';

export const dynamic = 'force-dynamic';

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => findParcel(await uuidParam(context)));
}

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await removeParcel(await uuidParam(context));
  });
}
