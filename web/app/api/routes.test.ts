import { beforeAll, describe, expect, it } from 'vitest';
import { closeAfterwards, request, send, withId } from '../../server/test/harness.ts';
import { quay } from '../../server/test/quay.ts';
import { GET as getWhole } from './assets/[id]/compare/whole/route.ts';
import { POST as moveCursor } from './assets/[id]/cursor/route.ts';
import { POST as addEdits } from './assets/[id]/edits/route.ts';
import { GET as getAsset } from './assets/[id]/route.ts';
import { GET as getParcel } from './parcels/[id]/route.ts';
import { POST as createParcel } from './parcels/route.ts';
import { GET as getShelf } from './shelf/route.ts';

closeAfterwards();

let id: string;
beforeAll(async () => {
  id = (await send('Quay', await quay())).assets.quay;
});

const edit = {
  kind: 'setValues',
  slots: [{ material: 'Brass', channel: 'roughness' }],
  value: 0.5,
  origin: { from: 'hand', detail: '' },
};

describe('routes', () => {
  it('answer with the asset, its state and what is open', async () => {
    const answer = await getAsset(request(`/api/assets/${id}`), withId(id));
    expect(answer.status).toBe(200);
    expect(await answer.json()).toMatchObject({ id, name: 'quay' });
    const { assets } = await (await getShelf(request('/api/shelf'))).json();
    expect(assets.map((asset: { id: string }) => asset.id)).toContain(id);
  });

  it('take edits and move along them', async () => {
    const added = await addEdits(request('/x', { method: 'POST', body: { edits: [edit] } }), withId(id));
    expect((await added.json()).log).toHaveLength(1);
    const undone = await moveCursor(request('/x', { method: 'POST', body: { by: -1 } }), withId(id));
    expect((await undone.json()).log[0].undone).toBe(true);
  });

  it.each([
    ['no JSON', '{', 'request.invalid'],
    ['no edits', { edits: [] }, 'request.invalid'],
    ['an edit of no kind', { edits: [{ kind: 'polish', origin: edit.origin }] }, /edit|request/],
  ])('refuse %s in words, and change nothing', async (_, body, code) => {
    const answer = await addEdits(request('/x', { method: 'POST', body }), withId(id));
    expect(answer.status).toBe(400);
    const { error } = await answer.json();
    expect(error.code).toMatch(code);
    expect(error.message).not.toMatch(/undefined|Cannot read|at Object/);
  });

  it('refuse what another site sends', async () => {
    const answer = await addEdits(
      request('/x', { method: 'POST', body: { edits: [edit] }, origin: 'http://elsewhere.test' }),
      withId(id),
    );
    expect(answer.status).toBe(403);
    expect(
      (
        await createParcel(
          request('/api/parcels', { method: 'POST', body: { name: 'x' }, origin: 'http://elsewhere.test' }),
        )
      ).status,
    ).toBe(403);
  });

  it('say that there is no such thing', async () => {
    for (const wrong of ['not-an-id', '00000000-0000-4000-8000-000000000000']) {
      expect((await getAsset(request('/x'), withId(wrong))).status).toBe(404);
      expect((await getParcel(request('/x'), withId(wrong))).status).toBe(404);
    }
    const side = await getWhole(request(`/api/assets/${id}/compare/whole?a=edited&b=nothing`), withId(id));
    expect(side.status).toBe(404);
    expect((await getWhole(request(`/api/assets/${id}/compare/whole?a=edited`), withId(id))).status).toBe(
      400,
    );
  });
});
