import Joi from 'joi';
import { check, checkOrigin, readJson, respond } from '@/server/respond';
import { createParcel } from '@/server/services/parcels';

const schema = Joi.object({ name: Joi.string().trim().min(1).max(255).required() });

export async function POST(request: Request) {
  return respond(async () => {
    checkOrigin(request);
    const { name } = check<{ name: string }>(schema, await readJson(request));
    return { id: await createParcel(name) };
  });
}
