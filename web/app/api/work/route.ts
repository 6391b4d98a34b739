import { respond } from '@/server/respond';
import { workload } from '@/server/services/workload';

export const dynamic = 'force-dynamic';

/** Who works, at what, what waits, and what failed of late. */
export async function GET() {
  return respond(workload);
}
