import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { dismissFaults } from '@/server/services/parcels';

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await dismissFaults(await uuidParam(context));
  });
}
