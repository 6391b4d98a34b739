import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { viewSide } from '@/server/services/compare';

export const dynamic = 'force-dynamic';

export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () =>
    viewSide(await uuidParam(context), new URL(request.url).searchParams.get('side') ?? ''),
  );
}
