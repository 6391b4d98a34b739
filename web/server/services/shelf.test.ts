import { beforeAll, describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { assets, parcels } from '../db/schema.ts';
import { closeAfterwards } from '../test/harness.ts';
import { type ShelfQuery, shelfPage } from './shelf.ts';

closeAfterwards();

let north: string;
beforeAll(async () => {
  const rows = await db()
    .insert(parcels)
    .values([
      { name: 'North pier', state: 'ready' },
      { name: '100% fenders', state: 'ready' },
    ])
    .returning();
  north = rows[0].id;
  const source = (polygons: number, format: string) => ({ format, variant: 'text', counts: { polygons }, bounds: { min: [0, 0, 0], max: [1, 2, 3] } });
  await db()
    .insert(assets)
    .values(
      Array.from({ length: 25 }, (_, i) => ({
        parcelId: rows[i % 5 === 0 ? 1 : 0].id,
        name: `fender ${i}`,
        model: `models/fender_${i}.obj`,
        source: source((i * 7) % 25, i % 2 === 0 ? 'obj' : 'fbx') as never,
        geometry: '',
        severities: { error: i % 3, warning: i % 4, note: i },
        updatedAt: new Date(2026, 0, 1 + i),
      })),
    );
});

const names = async (query: ShelfQuery) => (await shelfPage(query)).assets.map(({ name }) => Number(name.split(' ')[1]));

describe('the shelf', () => {
  it('comes in pages, the last changed first, with how many there are', async () => {
    const { assets: first, total } = await shelfPage({ limit: 10 });
    expect(total).toBe(25);
    expect(first.map(({ name }) => name).slice(0, 3)).toEqual(['fender 24', 'fender 23', 'fender 22']);
    expect(await names({ limit: 10, offset: 20 })).toEqual([4, 3, 2, 1, 0]);
    expect(first[0]).toMatchObject({
      model: 'models/fender_24.obj',
      format: 'obj',
      variant: 'text',
      counts: { polygons: 18 },
      bounds: { max: [1, 2, 3] },
      severities: { error: 0, warning: 0, note: 24 },
    });
    expect(Object.keys(first[0])).not.toContain('source');
  });

  it('is sorted by name as people count, by what is open and by polygons', async () => {
    expect((await names({ sort: 'name' })).slice(0, 12)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    // Two errors: 2, 5, 8, 11 ...; of those three warnings: 11, 23; then the most notes.
    expect((await names({ sort: 'findings' })).slice(0, 3)).toEqual([23, 11, 14]);
    // 24 polygons: 7 i = 24 modulo 25, so i = 7; then 23, 22.
    expect((await names({ sort: 'polygons' })).slice(0, 3)).toEqual([7, 14, 21]);
  });

  it('is searched by every word, in names, models, parcels and formats, and no sign of it stands for others', async () => {
    const count = async (search: string) => (await shelfPage({ search })).total;
    expect(await count('NORTH')).toBe(20);
    expect(await count('north fbx')).toBe(10);
    expect(await count('fender_12')).toBe(1);
    expect(await count('100%')).toBe(5);
    expect(await count('fender%1')).toBe(0);
    expect(await count('_1')).toBe(11);
    expect(await count('\\')).toBe(0);
    expect(await count("'; drop table assets; --")).toBe(0);
    expect(await count('   ')).toBe(25);
    expect((await shelfPage({ parcel: north })).total).toBe(20);
  });
});
