import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDebianPackages, ensureNpmPackages } from './lib/packages.mjs';
import { freePort, ROOT, run, say } from './lib/run.mjs';

/**
 * `npm run torture [KILLS]`: sends parcels, edits and handoffs to an application of its own while worker,
 * server and database are killed at random (SIGKILL), and then looks whether anything was lost, done twice or
 * left hanging. What a request was answered for must be there; what was not answered may be.
 */
const KILLS = Number(process.argv[2] ?? 20);
/** A process that ends more often than this is taken for broken and given up. */
const APART_MS = 5000;
const SETTLE_MS = 240_000;
const NAME = 'torture';

await ensureDebianPackages({});
await ensureNpmPackages();
const { startPostgres, killPostgres, removePostgres } = await import('./lib/postgres.mjs');
const { ensureBuild, migrate, startApplication } = await import('./lib/application.mjs');

await removePostgres(NAME);
const dataFolder = await mkdtemp(join(tmpdir(), 'kinkajou-torture-'));
const database = await startPostgres(NAME);
await migrate({ DATABASE_URL: database.url });
await ensureBuild();
process.env.KINKAJOU_LEASE_SECONDS = '3';
const application = await startApplication({ databaseUrl: database.url, dataFolder, port: await freePort() });
const { address, children } = application;
const answered = { parcels: [], edits: [], handoffs: [] };
let done = false;
let count = 0;
try {
  const working = Promise.all([work(), work()]);
  for (let kill = 0; kill < KILLS; kill += 1) {
    await pause(APART_MS + Math.random() * 6000);
    const what = ['worker', 'server', 'database'][Math.floor(Math.random() * 3)];
    say(
      `${kill + 1}: ${what} killed; ${answered.parcels.length} parcels, ${answered.edits.length} edits, ${answered.handoffs.length} handoffs so far`,
    );
    if (what === 'database') {
      await killPostgres(NAME);
      await pause(1500);
      await again(() => startPostgres(NAME, { at: database.port }));
    } else children.find(({ label }) => label === what).child.kill('SIGKILL');
  }
  done = true;
  await working;
  const wrong = await examine();
  for (const line of wrong) say(`WRONG: ${line}`);
  say(
    `${KILLS} kills, ${answered.parcels.length} parcels, ${answered.edits.length} edits, ${answered.handoffs.length} handoffs: ${wrong.length === 0 ? 'nothing lost, nothing doubled, nothing left hanging' : `${wrong.length} things are wrong`}`,
  );
  process.exitCode = wrong.length === 0 ? 0 : 1;
} finally {
  await application.stop();
  await removePostgres(NAME);
  await rm(dataFolder, { recursive: true, force: true });
}

/** Sends one parcel after the other, changes its asset and hands it off; goes on whatever breaks. */
async function work() {
  while (!done) {
    try {
      count += 1;
      const own = count;
      const name = `Post ${own}`;
      const { id } = await ask('POST', '/api/parcels', { name });
      const file = `post${own}`;
      const obj = `mtllib ${file}.mtl\nusemtl Wood\nv 0 0 0\nv ${own} 0 0\nv 0 1 0\nf 1 2 3\n`;
      await send(id, `${file}.obj`, obj);
      await send(id, `${file}.mtl`, 'newmtl Wood\nKd 0.5 0.4 0.3\nPr 0.5\n');
      await ask('POST', `/api/parcels/${id}/close`);
      answered.parcels.push(id);
      const asset = await assetOf(id);
      if (!asset) continue;
      const origin = { from: 'hand', detail: '' };
      const edit = {
        kind: 'setValues',
        slots: [{ material: 'Wood', channel: 'roughness' }],
        value: 0.25,
        origin,
      };
      await ask('POST', `/api/assets/${asset}/edits`, { edits: [edit] });
      answered.edits.push(asset);
      const { handoffs } = await ask('POST', `/api/assets/${asset}/handoffs`, {
        requests: [{ destination: 'web-gltf', choices: {} }],
      });
      answered.handoffs.push(...handoffs.map((handoff) => ({ asset, id: handoff.id })));
    } catch {
      await pause(400);
    }
  }
}

/** The asset that a parcel becomes; null when that takes too long among the kills. */
async function assetOf(parcel) {
  for (let tries = 0; tries < 60 && !done; tries += 1) {
    const found = await ask('GET', `/api/parcels/${parcel}`).catch(() => null);
    if (found?.state === 'ready') {
      const { assets } = await ask('GET', `/api/shelf?size=500`);
      return assets.find(({ parcelId }) => parcelId === parcel)?.id ?? null;
    }
    await pause(300);
  }
  return null;
}

/** Waits until nothing runs any more, then looks at the tables. */
async function examine() {
  const { default: pg } = await import('pg');
  const client = new pg.Client({ connectionString: database.url });
  await client.connect();
  const rows = async (text, values = []) => (await client.query(text, values)).rows;
  const wrong = [];
  const until = Date.now() + SETTLE_MS;
  const open = () =>
    rows(
      "select kind, state, count(*)::int as count from jobs where state in ('queued', 'running') group by kind, state",
    );
  while ((await open()).length > 0 && Date.now() < until) await pause(1000);
  for (const { kind, state, count: left } of await open())
    wrong.push(`${left} jobs of kind ${kind} are still ${state}`);
  for (const { kind, state, fault } of await rows(
    "select kind, state, fault->>'message' as fault from jobs where state = 'failed'",
  ))
    wrong.push(`a job of kind ${kind} is ${state}: ${fault}`);
  for (const id of answered.parcels) {
    const [parcel] = await rows(
      'select state, (select count(*)::int from assets where parcel_id = p.id) as assets from parcels p where id = $1',
      [id],
    );
    if (parcel?.state !== 'ready' || parcel.assets !== 1)
      wrong.push(`parcel ${id} is ${parcel?.state ?? 'gone'} with ${parcel?.assets ?? 0} assets`);
  }
  for (const id of answered.edits) {
    const [{ count: edits }] = await rows('select count(*)::int as count from edits where asset_id = $1', [
      id,
    ]);
    if (edits !== 1) wrong.push(`asset ${id} has ${edits} edits instead of one`);
  }
  for (const { id } of answered.handoffs) {
    const [handoff] = await rows(
      'select j.state, h.receipt is not null and h.zip is not null as made from handoffs h join jobs j on j.id = h.id where h.id = $1',
      [id],
    );
    if (handoff?.state !== 'done' || !handoff.made)
      wrong.push(`handoff ${id} is ${handoff?.state ?? 'gone'}`);
  }
  for (const { name } of await rows('select name from assets group by name having count(*) > 1'))
    wrong.push(`the asset ${name} is there twice`);
  await client.end();
  const doctor = await run(process.execPath, [join(ROOT, 'bin/kinkajou'), 'doctor', '--json'], {
    quiet: true,
    env: { ...process.env, DATABASE_URL: database.url, KINKAJOU_DATA: dataFolder },
  }).catch((error) => error.output);
  for (const { part, ok, text } of JSON.parse(doctor.slice(doctor.indexOf('{'))).checked)
    if (!ok) wrong.push(`${part}: ${text}`);
  return wrong;
}

async function send(parcel, path, text) {
  const answer = await fetch(`${address}/api/parcels/${parcel}/files?path=${path}`, {
    method: 'PUT',
    body: text,
  });
  if (!answer.ok) throw new Error(await answer.text());
}

async function ask(method, path, body) {
  const answer = await fetch(address + path, {
    method,
    ...(body === undefined
      ? {}
      : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  });
  if (!answer.ok) throw new Error(await answer.text());
  return answer.json();
}

/** Its processes take a moment to notice that their parent is gone. */
async function again(start) {
  for (let tries = 1; ; tries += 1) {
    try {
      return await start();
    } catch (error) {
      if (tries === 10) throw error;
      await pause(1000);
    }
  }
}

function pause(milliseconds) {
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}
