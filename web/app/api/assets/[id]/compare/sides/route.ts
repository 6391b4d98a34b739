import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { listSides } from '@/server/services/compare';

export const dynamic = 'force-dynamic';

export async function GET(_request: Request, context: RouteParams<'id'>) {
  return respond(async () => ({ sides: await listSides(await uuidParam(context)) }));
}
