import { respond } from '@/server/respond';
import { listShelf } from '@/server/services/assets';
import { listOpenParcels } from '@/server/services/parcels';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ assets: await listShelf(), parcels: await listOpenParcels() }));
}
