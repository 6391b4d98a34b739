import { respond } from '@/server/respond';
import { listOpenParcels } from '@/server/services/parcels';

export const dynamic = 'force-dynamic';

/** Parcels that are being read, failed, or have something left out. */
export async function GET() {
  return respond(async () => ({ parcels: await listOpenParcels() }));
}
