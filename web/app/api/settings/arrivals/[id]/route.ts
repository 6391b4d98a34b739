import { type RouteParams, uuidParam } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { listArrivalFolders, removeArrivalFolder } from '@/server/services/arrivalFolders';

/** Watches a folder of arrivals no longer. */
export async function DELETE(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    checkOrigin(request);
    await removeArrivalFolder(await uuidParam(context));
    return { folders: await listArrivalFolders() };
  });
}
