import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { removeSelection } from '@/server/services/selections';

export const dynamic = 'force-dynamic';

export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    return { selections: await removeSelection(await uuidParam(context)) };
  });
}
