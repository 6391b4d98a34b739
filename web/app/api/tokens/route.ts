import { tokenRequest } from '@/server/http/schemas';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { listTokens, makeToken } from '@/server/services/tokens';

export const dynamic = 'force-dynamic';

export async function GET() {
  return respond(async () => ({ tokens: await listTokens() }));
}

/** Makes a token, which is told this once. */
export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    return makeToken(check<{ name: string }>(tokenRequest, await readJson(request)).name);
  });
}
