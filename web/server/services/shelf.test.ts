import { eq } from 'drizzle-orm';
import { beforeAll, describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { assets, parcels } from '../db/schema.ts';
import { closeAfterwards } from '../test/harness.ts';
import { keepSelection, listSelections, removeSelection } from './selections.ts';
import { type ShelfQuery, shelfFacets, shelfIds, shelfPage } from './shelf.ts';

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
  const source = (polygons: number, format: string) => ({
    format,
    variant: 'text',
    generator: polygons < 5 ? 'Yard 2' : '',
    counts: { polygons },
    bounds: { min: [0, 0, 0], max: [1, 2, polygons] },
  });
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
        open:
          i % 3 > 0
            ? { 'link.missing': 'Missing image', ...(i % 4 > 0 ? { 'slot.doubtful': 'Doubt' } : {}) }
            : {},
        updatedAt: new Date(2026, 0, 1 + i),
      })),
    );
});

const names = async (query: ShelfQuery) =>
  (await shelfPage(query)).assets.map(({ name }) => Number(name.split(' ')[1]));

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
      bounds: { max: [1, 2, 18] },
      severities: { error: 0, warning: 0, note: 24 },
    });
    expect(Object.keys(first[0])).not.toContain('source');
  });

  it('folds a parcel of many assets into one entry, with what is open in all of them; few stay apart', async () => {
    const { assets: found, total, whole } = await shelfPage({ fold: true });
    const numbers = Array.from({ length: 25 }, (_, i) => i);
    const inNorth = numbers.filter((i) => i % 5 > 0);
    const sum = (of: (i: number) => number) => inNorth.reduce((all, i) => all + of(i), 0);
    // Five fenders of the second parcel, and the first parcel's twenty as one, shown by the last that was
    // changed.
    expect([total, whole]).toEqual([6, 25]);
    expect(found.map(({ name, stack }) => [name, stack?.size ?? 0])).toEqual([
      ['fender 24', 20],
      ['fender 20', 0],
      ['fender 15', 0],
      ['fender 10', 0],
      ['fender 5', 0],
      ['fender 0', 0],
    ]);
    expect(found[0].stack?.severities).toEqual({
      error: sum((i) => i % 3),
      warning: sum((i) => i % 4),
      note: sum((i) => i),
    });
    expect((await shelfPage({ fold: true, limit: 2, offset: 4 })).assets.map(({ name }) => name)).toEqual([
      'fender 5',
      'fender 0',
    ]);
    // Six are few, seven are many.
    const [six] = await db().insert(parcels).values({ name: 'six' }).returning();
    const [{ parcelId: _parcel, id: _id, ...like }] = await db().select().from(assets).limit(1);
    const put = (...numbers: number[]) =>
      db()
        .insert(assets)
        .values(numbers.map((i) => ({ ...like, parcelId: six.id, name: `six ${i}`, model: `six_${i}.obj` })));
    const sizes = async () =>
      new Set((await shelfPage({ fold: true, search: 'six' })).assets.map(({ stack }) => stack?.size ?? 0));
    await put(1, 2, 3, 4, 5, 6);
    expect(await sizes()).toEqual(new Set([0]));
    await put(7);
    expect(await sizes()).toEqual(new Set([7]));
    await db().delete(parcels).where(eq(parcels.id, six.id));
    // What is off the shelf lies open.
    expect(await shelfPage({ fold: true, removed: true })).toMatchObject({ total: 0, whole: 0 });
  });

  it('is sorted by name as people count, by what is open and by polygons', async () => {
    expect((await names({ sort: 'name' })).slice(0, 12)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]);
    // Two errors: 2, 5, 8, 11 ...; of those three warnings: 11, 23; then the most notes.
    expect((await names({ sort: 'findings' })).slice(0, 3)).toEqual([23, 11, 14]);
    // 24 polygons: 7 i = 24 modulo 25, so i = 7; then 23, 22.
    expect((await names({ sort: 'polygons' })).slice(0, 3)).toEqual([7, 14, 21]);
  });

  it('is filtered by state, finding, program, format, size, parcel and packages', async () => {
    const found = async (filter: ShelfQuery) => (await names({ ...filter, sort: 'name' })).join(' ');
    const numbers = Array.from({ length: 25 }, (_, i) => i);
    const which = (test: (i: number) => boolean) => numbers.filter(test).join(' ');
    const polygons = (i: number) => (i * 7) % 25;
    expect(await found({ state: 'broken' })).toBe(which((i) => i % 3 > 0));
    expect(await found({ state: 'doubtful' })).toBe(which((i) => i % 3 === 0 && i % 4 > 0));
    expect(await found({ state: 'clean' })).toBe('0');
    expect(await found({ code: 'slot.doubtful' })).toBe(which((i) => i % 3 > 0 && i % 4 > 0));
    expect(await found({ generator: 'Yard 2' })).toBe(which((i) => polygons(i) < 5));
    expect(await found({ generator: '' })).toBe(which((i) => polygons(i) >= 5));
    expect(await found({ format: 'fbx', longer: 10, shorter: 20 })).toBe(
      which((i) => i % 2 === 1 && polygons(i) > 10 && polygons(i) < 20),
    );
    expect(await found({ parcel: north, search: 'fender 1' })).toBe(
      which((i) => i % 5 > 0 && String(i).includes('1')),
    );
    expect([await found({ handed: true }), (await shelfPage({ handed: false })).total]).toEqual(['', 25]);
    const ids = await shelfIds({ state: 'broken' });
    expect([ids.length, new Set(ids).size]).toEqual([16, 16]);
  });

  it('tells what the filters can be set to, with how many assets each finds', async () => {
    const { formats, generators, codes, parcels: inParcels } = await shelfFacets();
    expect(formats).toEqual([
      { value: 'obj', count: 13 },
      { value: 'fbx', count: 12 },
    ]);
    expect(generators).toEqual([
      { value: '', count: 20 },
      { value: 'Yard 2', count: 5 },
    ]);
    expect(codes).toEqual([
      { value: 'link.missing', title: 'Missing image', count: 16 },
      { value: 'slot.doubtful', title: 'Doubt', count: 12 },
    ]);
    expect(inParcels.map(({ title, count }) => [title, count]).sort()).toEqual([
      ['100% fenders', 5],
      ['North pier', 20],
    ]);
  });

  it('keeps selections by name, of filters or of assets', async () => {
    const [id] = await shelfIds({});
    await keepSelection({ name: 'north', filter: { parcel: north }, assets: null });
    await keepSelection({ name: 'Broken', filter: { state: 'broken' }, assets: null });
    expect(await keepSelection({ name: 'north', filter: {}, assets: [id] })).toEqual([
      { id: expect.any(String), name: 'Broken', filter: { state: 'broken' }, assets: null },
      { id: expect.any(String), name: 'north', filter: {}, assets: [id] },
    ]);
    for (const entry of await listSelections()) await removeSelection(entry.id);
    expect(await listSelections()).toEqual([]);
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
