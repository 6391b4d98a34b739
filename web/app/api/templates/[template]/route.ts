import { numberParam, type RouteParams } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { removeTemplate } from '@/server/services/templates';

export async function DELETE(request: Request, context: RouteParams<'template'>) {
  return respond(async () => {
    checkOrigin(request);
    return { templates: await removeTemplate(await numberParam(context, 'template')) };
  });
}
