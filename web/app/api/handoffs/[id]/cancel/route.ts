import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { cancelHandoff } from '@/server/services/handoffs';

export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await cancelHandoff(await uuidParam(context));
  });
}
