import { respond } from '@/server/respond';
import { insights, insightsCsv } from '@/server/services/insights';

export const dynamic = 'force-dynamic';

/** What was wrong, mended and left over the whole shelf; as CSV with `?as=csv`. */
export async function GET(request: Request) {
  return respond(async () => {
    if (new URL(request.url).searchParams.get('as') !== 'csv') return insights();
    const headers = {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="insights.csv"',
    };
    return new Response(await insightsCsv(), { headers });
  });
}
