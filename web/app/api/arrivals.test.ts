import { existsSync } from 'node:fs';
import { and, count, eq } from 'drizzle-orm';
import { describe, expect, it } from 'vitest';
import { db } from '../../server/db/client.ts';
import { jobs, parcels } from '../../server/db/schema.ts';
import { curlOf, openApi } from '../../server/http/openApi.ts';
import { OPERATIONS } from '../../server/http/operations.ts';
import { arrivalReport } from '../../server/services/arrivals.ts';
import { closeAfterwards, withId, work } from '../../server/test/harness.ts';
import { GET as getArrival } from './arrivals/[id]/route.ts';
import { POST as sendArrival } from './arrivals/route.ts';
import { DELETE as revokeToken } from './tokens/[id]/route.ts';
import { POST as makeToken } from './tokens/route.ts';

closeAfterwards();

const MODEL =
  'o Crate\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nvn 0 0 1\nf 1/1/1 2/2/1 3/3/1 4/4/1\n';
const HOST = { host: '127.0.0.1:4700' };

const call = (path: string, init: RequestInit & { duplex?: 'half' } = {}) =>
  new Request(`http://127.0.0.1:4700${path}`, {
    ...init,
    headers: { ...HOST, ...(init.headers as Record<string, string>) },
  });

async function freshToken(): Promise<{ token: string; id: string }> {
  const body = JSON.stringify({ name: 'the farm' });
  const answer = await makeToken(
    call('/api/tokens', { method: 'POST', body, headers: { 'content-type': 'application/json' } }),
  );
  const { token, tokens } = await answer.json();
  return { token, id: tokens[0].id };
}

const send = (query: Record<string, string>, token: string | null, body = MODEL) =>
  sendArrival(
    call(`/api/arrivals?${new URLSearchParams(query)}`, {
      method: 'POST',
      body,
      headers: token === null ? {} : { authorization: `Bearer ${token}` },
    }),
  );

describe('an arrival by a script', () => {
  it('is read, ruled and handed off as its sender asked, which the script can follow', async () => {
    const { token } = await freshToken();
    const example =
      OPERATIONS.find(({ path, method }) => path === '/api/arrivals' && method === 'post')?.example?.query ??
      {};
    const sent = await send(example, token);
    expect(sent.status).toBe(202);
    const { id, state } = await sent.json();
    expect([sent.headers.get('location'), state]).toEqual([`/api/arrivals/${id}`, 'reading']);
    await work();
    const report = await (
      await getArrival(call('/x', { headers: { authorization: `Bearer ${token}` } }), withId(id))
    ).json();
    expect(report).toMatchObject({
      name: 'crate.obj',
      state: 'done',
      faults: [],
      assets: [
        {
          name: 'crate',
          model: 'crate.obj',
          asks: [],
          packages: [{ destination: 'web-gltf', state: 'done', verdict: expect.any(String) }],
        },
      ],
    });
    expect(report.assets[0].packages[0].url).toBe(`/api/handoffs/${report.assets[0].packages[0].id}/package`);
    // Rules or a package that wait or run are work.
    for (const kind of ['apply-rules', 'hand-off'] as const)
      for (const waiting of ['queued', 'running'] as const) {
        const change =
          kind === 'apply-rules'
            ? db()
                .update(jobs)
                .set({ state: waiting })
                .where(and(eq(jobs.kind, kind), eq(jobs.key, id)))
            : db().update(jobs).set({ state: waiting }).where(eq(jobs.id, report.assets[0].packages[0].id));
        const [before] = await change.returning();
        expect([kind, waiting, (await arrivalReport(id)).state]).toEqual([kind, waiting, 'working']);
        await db().update(jobs).set({ state: 'done' }).where(eq(jobs.id, before.id));
        expect((await arrivalReport(id)).state).toBe('done');
      }
  });

  it.each([
    ['without a token', { name: 'a.obj' }, null, 401, 'unauthorized'],
    ['with a token that was never made', { name: 'a.obj' }, 'kinkajou_guess', 401, 'unauthorized'],
    ['without a name', {}, 'good', 400, 'request.invalid'],
    [
      'for a destination that is not there',
      { name: 'a.obj', to: 'moon' },
      'good',
      400,
      'handoff.destination',
    ],
    ['under a name that leads elsewhere', { name: '../a.obj' }, 'good', 400, 'parcel.path'],
    [
      'with rules that are not there',
      { name: 'a.obj', rules: 'paths,by the moon' },
      'good',
      400,
      'rulebook.none',
    ],
  ])('is refused %s, and nothing is begun', async (_, query, token, status, code) => {
    const good = await freshToken();
    const before = await db().select({ total: count() }).from(parcels);
    const answer = await send(query as Record<string, string>, token === 'good' ? good.token : token);
    expect(await db().select({ total: count() }).from(parcels)).toEqual(before);
    expect([answer.status, (await answer.json()).error.code]).toEqual([status, code]);
  });

  it('is refused once its token was revoked', async () => {
    const { token, id } = await freshToken();
    expect((await send({ name: 'a.obj' }, token)).status).toBe(202);
    await revokeToken(call('/x', { method: 'DELETE' }), withId(id));
    expect((await send({ name: 'b.obj' }, token)).status).toBe(401);
  });

  it('tells what could not be read', async () => {
    const { token } = await freshToken();
    const { id } = await (await send({ name: 'broken.gltf' }, token, '{ "asset": ')).json();
    await work();
    const report = await (
      await getArrival(call('/x', { headers: { authorization: `Bearer ${token}` } }), withId(id))
    ).json();
    expect(report).toMatchObject({ state: 'failed', assets: [], faults: [{ file: 'broken.gltf' }] });
  });
});

describe('the description of the interface', () => {
  it('names routes that are there, with examples that their own schemas take', async () => {
    for (const { method, path, query, body, example } of OPERATIONS) {
      const file = new URL(
        `.${path.replace('/api', '').replaceAll(/\{(\w+)\}/g, '[$1]')}/route.ts`,
        import.meta.url,
      );
      expect(existsSync(file), path).toBe(true);
      expect(await import(file.href), path).toHaveProperty(method.toUpperCase());
      if (query && example?.query) expect(query.validate(example.query).error, path).toBeUndefined();
      if (body && body !== 'file') expect(body.validate(example?.body).error, path).toBeUndefined();
    }
  });

  it('says what is asked for in the words of OpenAPI', () => {
    const { openapi, paths } = openApi();
    expect(openapi).toBe('3.1.0');
    const sending = paths['/api/arrivals'].post as {
      parameters: { name: string; in: string; required: boolean; schema: object }[];
      security: unknown;
    };
    expect(sending.security).toEqual([{ token: [] }]);
    expect(sending.parameters.map(({ name, required }) => [name, required])).toEqual([
      ['name', true],
      ['rules', false],
      ['to', false],
      ['mend', false],
    ]);
    expect(sending.parameters[3].schema).toMatchObject({ const: 'safe' });
    expect(paths['/api/runs/{id}'].get).toMatchObject({
      parameters: [{ name: 'id', in: 'path', required: true }],
    });
    expect(paths['/api/runs'].post).toMatchObject({
      requestBody: { content: { 'application/json': { schema: { type: 'object', required: ['apply'] } } } },
    });
  });

  it('has a line for a shell', () => {
    const [sending] = OPERATIONS;
    expect(curlOf(sending, 'http://quay')).toBe(
      'curl -X POST -H "Authorization: Bearer $TOKEN" --data-binary @crate.obj -H "content-type: application/octet-stream" \'http://quay/api/arrivals?name=crate.obj&rules=paths%2Ccolour-tags&to=web-gltf&mend=safe\'',
    );
    const report = OPERATIONS.find(({ path }) => path === '/api/arrivals/{id}');
    expect(report && curlOf(report, '')).toBe('curl -H "Authorization: Bearer $TOKEN" \'/api/arrivals/ID\'');
  });
});
