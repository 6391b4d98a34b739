import { numberParam, type RouteParams } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { reindexRoot, removeRoot } from '@/server/services/searchRoots';

/** Has a search folder indexed again. */
export async function POST(request: Request, context: RouteParams<'root'>) {
  return respond(async () => {
    checkOrigin(request);
    await reindexRoot(await numberParam(context, 'root'));
  });
}

export async function DELETE(request: Request, context: RouteParams<'root'>) {
  return respond(async () => {
    checkOrigin(request);
    await removeRoot(await numberParam(context, 'root'));
  });
}
