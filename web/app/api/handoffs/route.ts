import { respond } from '@/server/respond';
import { listAllHandoffs } from '@/server/services/handoffs';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ handoffs: await listAllHandoffs() }));
}
