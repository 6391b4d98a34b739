import type { RouteParams } from '@/server/params';
import { checkOrigin, respond } from '@/server/respond';
import { removeDestination } from '@/server/services/destinations';

export async function DELETE(request: Request, { params }: RouteParams<'destination'>) {
  return respond(async () => {
    checkOrigin(request);
    return { destinations: await removeDestination((await params).destination) };
  });
}
