import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { cancelMaking } from '@/server/services/makings';

export async function POST(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await cancelMaking(await uuidParam(context));
  });
}
