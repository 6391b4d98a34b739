import { describe, expect, it } from 'vitest';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { addEdits } from './edits.ts';
import { insights, insightsCsv } from './insights.ts';
import { removeAsset } from './removal.ts';
import { requestRun } from './runs.ts';
import { shelfIds } from './shelf.ts';

closeAfterwards();

const origin = { from: 'hand', detail: '' } as const;

describe('insights', () => {
  it('tell what was found, what of it was mended and by whom, and what is left', async () => {
    const unused =
      'newmtl Stone\nKd 0.5 0.5 0.5\nPr 0.5\nPm 0\nnewmtl Brass\nKd 0.9 0.8 0.4\nPr 0.3\nPm 1\nnewmtl Spare\nKd 1 0 0\n';
    const files = { ...(await quay()), 'quay.mtl': unused };
    const ids = [
      (await send('Seen', files)).assets.quay,
      (await send('Mended', files)).assets.quay,
      (await send('Gone', files)).assets.quay,
    ];
    await work();
    const finding = (await benchView(ids[0])).findings.find(({ code }) => code === 'material.unused');
    expect(finding?.mend).toBeTruthy();
    if (finding?.mend) await addEdits(ids[1], [finding.mend]);
    await addEdits(ids[1], [
      { kind: 'setValues', slots: [{ material: 'Brass', channel: 'roughness' }], value: 0.4, origin },
    ]);
    const rule = JSON.parse(
      '{"rulebook":1,"title":"House","rules":[{"name":"Brass is bronze","when":{"material":"Brass"},"then":[{"do":"renameMaterial","to":"Bronze"}]}]}',
    );
    await requestRun({ book: rule, assets: [ids[0]], apply: true, destinations: ['web-gltf'] });
    await work();
    await removeAsset(ids[2]);

    const told = await insights();
    expect(told.assets).toBe(2);
    expect(told.byCode.find(({ value }) => value === 'material.unused')).toEqual({
      value: 'material.unused',
      title: finding?.title,
      found: 2,
      left: 1,
    });
    expect(told.byParcel.map(({ title }) => title)).toEqual(['Mended', 'Seen']);
    const sum = (rows: { found: number; left: number }[]) =>
      rows.reduce(([found, left], row) => [found + row.found, left + row.left], [0, 0]);
    expect([sum(told.byGenerator), sum(told.byParcel), sum(told.byWeek)]).toEqual(
      Array.from({ length: 3 }, () => sum(told.byCode)),
    );
    expect(told.byWeek).toHaveLength(1);
    expect(new Date(told.byWeek[0].value).getUTCDay()).toBe(1);
    expect(told.byWhom).toEqual(
      expect.arrayContaining([
        { title: 'Brass is bronze', rulebook: 'House', edits: 1, assets: 1 },
        { title: 'by hand', rulebook: null, edits: 1, assets: 1 },
      ]),
    );
    expect(told.byWhom.reduce((all, { edits }) => all + edits, 0)).toBe(3);
    expect(told.handedOff).toMatchObject({ assets: 1, seconds: expect.any(Number) });
    // Four files in each of the two parcels.
    const came = 2 * Object.values(files).reduce((all, file) => all + Buffer.from(file as string).length, 0);
    expect(told.bytes).toEqual({ came, went: expect.any(Number) });
    expect(told.bytes.went).toBeGreaterThan(0);

    expect([
      await shelfIds({ code: 'material.unused' }),
      await shelfIds({ mended: 'material.unused' }),
    ]).toEqual([[ids[0]], [ids[1]]]);
    const csv = await insightsCsv();
    expect(csv.split('\r\n')[0]).toBe('by,name,found,mended,left');
    expect(csv).toContain('\r\nfinding,material.unused,2,1,1\r\n');
    expect(csv).toContain('\r\nedits by,Brass is bronze,,1,\r\n');
  });
});
