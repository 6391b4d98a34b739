import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { revokeToken } from '@/server/services/tokens';

export const dynamic = 'force-dynamic';

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return { tokens: await revokeToken(await uuidParam(context)) };
  });
}
