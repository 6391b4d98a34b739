import { numberParam, type RouteParams } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { removeEnvironment } from '@/server/services/environments';

export async function DELETE(request: Request, context: RouteParams<'environment'>) {
  return respond(async () => {
    checkOrigin(request);
    return { environments: await removeEnvironment(await numberParam(context, 'environment')) };
  });
}
