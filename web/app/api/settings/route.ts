import { allowedFolders } from '@/server/env';
import { respond } from '@/server/respond';
import { listRoots } from '@/server/services/searchRoots';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ allowed: allowedFolders(), roots: await listRoots() }));
}
