import { readdir, readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const FOLDER = fileURLToPath(new URL('../../drizzle', import.meta.url));
const NAME = 'kinkajou_earlier';

/** A database as an earlier version left it. */
let old: pg.Client;
let admin: pg.Client;
beforeAll(async () => {
  admin = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await admin.connect();
  await admin.query(`create database ${NAME}`);
  const url = new URL(process.env.DATABASE_URL ?? '');
  url.pathname = `/${NAME}`;
  old = new pg.Client({ connectionString: url.href });
  await old.connect();
});
afterAll(async () => {
  await old.end();
  await admin.query(`drop database ${NAME}`);
  await admin.end();
});

async function migrate(from: string, to: string): Promise<void> {
  const files = (await readdir(FOLDER))
    .filter((file) => file.endsWith('.sql') && file.slice(0, 4) >= from && file.slice(0, 4) <= to)
    .sort();
  for (const file of files)
    for (const statement of (await readFile(`${FOLDER}/${file}`, 'utf8')).split('--> statement-breakpoint'))
      await old.query(statement);
}

const one = async (text: string, values: unknown[] = []) => (await old.query(text, values)).rows[0];

describe('a database from before jobs had a table', () => {
  it('keeps what was made, and has what was left in the middle done again', async () => {
    await migrate('0000', '0007');
    const parcel = (
      await one(
        "insert into parcels (name, state, progress, doing) values ('Quay', 'ready', 1, '') returning id",
      )
    ).id;
    const hanging = (
      await one(
        "insert into parcels (name, state, progress, doing) values ('Left', 'reading', 0.4, 'reading lamp.fbx') returning id",
      )
    ).id;
    const columns = 'parcel_id, name, model, source, geometry, severities, last_edit';
    const asset = (
      await one(
        `insert into assets (${columns}) values ($1, 'lamp', 'lamp.fbx', '{}', '', '{}', '') returning id`,
        [parcel],
      )
    ).id;
    const handoff = async (state: string, fault: unknown) =>
      (
        await one(
          "insert into handoffs (asset_id, destination, variant, state, progress, fault, file_name) values ($1, 'web-gltf', 'glb', $2, 0.5, $3, 'lamp.zip') returning id",
          [asset, state, fault === null ? null : JSON.stringify(fault)],
        )
      ).id;
    const broken = { code: 'bake.failed', message: 'the image ends early', hint: '', file: 'a.png' };
    const [done, failed, running] = [
      await handoff('done', null),
      await handoff('failed', broken),
      await handoff('running', null),
    ];
    const making = (
      await one(
        "insert into makings (asset_id, request, state, message) values ($1, '{}', 'failed', 'no such recipe') returning id",
        [asset],
      )
    ).id;
    const conversion = (
      await one("insert into conversions (asset_id, request, state) values ($1, '{}', 'done') returning id", [
        asset,
      ])
    ).id;

    await migrate('0008', '9999');

    const job = (id: string) => one('select kind, state, data, fault from jobs where id = $1', [id]);
    expect(await job(done)).toEqual({
      kind: 'hand-off',
      state: 'done',
      data: { assetId: asset },
      fault: null,
    });
    expect(await job(failed)).toEqual({
      kind: 'hand-off',
      state: 'failed',
      data: { assetId: asset },
      fault: broken,
    });
    expect(await job(running)).toMatchObject({ kind: 'hand-off', state: 'queued' });
    expect(await job(making)).toMatchObject({
      kind: 'make-maps',
      state: 'failed',
      fault: { message: 'no such recipe' },
    });
    expect(await job(conversion)).toMatchObject({ kind: 'convert-image', state: 'done', fault: null });
    const { job_id: left } = await one('select job_id from parcels where id = $1', [hanging]);
    expect(await job(left)).toMatchObject({
      kind: 'read-parcel',
      state: 'queued',
      data: { parcelId: hanging },
    });
    expect((await one('select file_name from handoffs where id = $1', [done])).file_name).toBe('lamp.zip');
  });

  it('has classic highlights beside metalness put aside', async () => {
    const material = (workflow: string, detail: string, map: unknown = null) => ({
      key: 'Buoy',
      workflow,
      channels: { specularColor: { value: [0.5, 0.25, 1], map, source: { from: 'file', detail } } },
      extras: { Ns: '4' },
    });
    const image = { image: 'shine.png' };
    const kept = [
      material('legacy', 'SpecularColor'),
      material('metalRough', 'Maker|specular_color'),
      material('metalRough', 'SpecularColor', image),
    ];
    const materials = [
      material('metalRough', 'SpecularColor'),
      material('metalRough', 'line 4: Ks'),
      ...kept,
    ];
    const put = async (format: string) => {
      const { id } = await one("insert into parcels (name, state) values ('Quay', 'ready') returning id");
      const row = await one(
        "insert into assets (parcel_id, name, model, source, geometry, severities, last_edit) values ($1, 'buoy', 'buoy.fbx', $2, '', '{}', '') returning id",
        [id, JSON.stringify({ format, materials })],
      );
      return row.id;
    };
    const [fbx, gltf, empty] = [await put('fbx'), await put('gltf'), await put('obj')];
    await old.query('update assets set source = \'{"format": "obj"}\' where id = $1', [empty]);
    await migrate('0016', '0016');
    const read = async (id: string) =>
      (await one('select source from assets where id = $1', [id])).source.materials;
    const aside = {
      ...{ key: 'Buoy', workflow: 'metalRough', channels: {} },
      extras: { Ns: '4', 'classic highlight': '0.5 0.25 1' },
    };
    expect(await read(fbx)).toEqual([aside, aside, ...kept]);
    expect(await read(gltf)).toEqual(materials);
    expect(await read(empty)).toBeUndefined();
  });
});
