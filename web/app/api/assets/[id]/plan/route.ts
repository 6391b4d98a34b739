import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { previewPlan } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => previewPlan(await uuidParam(context), new URL(request.url).searchParams.get('to') ?? ''));
}
