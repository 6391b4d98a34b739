import { arrivalFolderRequest } from '@/server/http/schemas';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import {
  type ArrivalFolderRequest,
  addArrivalFolder,
  listArrivalFolders,
} from '@/server/services/arrivalFolders';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ folders: await listArrivalFolders() }));
}

/** Has whatever comes into a folder taken in, ruled, handed off and written out. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    await addArrivalFolder(check<ArrivalFolderRequest>(arrivalFolderRequest, await readJson(request)));
    return { folders: await listArrivalFolders() };
  });
}
