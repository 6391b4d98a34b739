import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { closeParcel } from '@/server/services/parcels';

export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await closeParcel(await uuidParam(context));
  });
}
