import { openApi } from '@/server/http/openApi';

/** The interface as an OpenAPI document. */
export function GET() {
  return Response.json(openApi());
}
