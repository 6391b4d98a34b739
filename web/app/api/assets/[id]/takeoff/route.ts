import { type RouteParams, uuidParam } from '@/server/params';
import { respond } from '@/server/respond';
import { takeoffCsv, takeoffOf } from '@/server/services/takeoff';

export const dynamic = 'force-dynamic';

/** Areas and volumes by part and material; as CSV with `?as=csv`. */
export async function GET(request: Request, context: RouteParams<'id'>) {
  return respond(async () => {
    const id = await uuidParam(context);
    if (new URL(request.url).searchParams.get('as') !== 'csv') return { rows: await takeoffOf(id) };
    const { fileName, text } = await takeoffCsv(id);
    const disposition = `attachment; filename="takeoff.csv"; filename*=UTF-8''${encodeURIComponent(fileName)}`;
    return new Response(text, {
      headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': disposition },
    });
  });
}
