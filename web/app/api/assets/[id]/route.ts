import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { benchView, removeAsset } from '@/server/services/assets';

export const dynamic = 'force-dynamic';

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => benchView(await uuidParam(context)));
}

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await removeAsset(await uuidParam(context));
  });
}
