import { readFile, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { readDemoZip, writeHarrowQuay } from './harrowQuay.ts';

/** Puts the harbour's parcels into a running Kinkajou, each once: what a person removed stays removed. */
const [address, dataFolder] = process.argv.slice(2);
const record = join(dataFolder, 'seeded.json');
const seeded: string[] = JSON.parse(await readFile(record, 'utf8').catch(() => '[]'));

for (const zip of await writeHarrowQuay(join(dataFolder, 'harrow-quay'))) {
  const name = basename(zip.path);
  if (seeded.includes(name)) continue;
  process.stdout.write(`Adding ${zip.title} ...\n`);
  const { id } = await send('POST', '/api/parcels', JSON.stringify({ name: zip.title }));
  await send(
    'PUT',
    `/api/parcels/${id}/files?path=${encodeURIComponent(`${zip.id}.zip`)}`,
    await readDemoZip(zip),
  );
  await send('POST', `/api/parcels/${id}/close`);
  await waitUntilRead(id);
  seeded.push(name);
  await writeFile(record, JSON.stringify(seeded));
}

interface Answer {
  id: string;
  state?: string;
  faults?: { message: string }[];
  error?: { text: string };
}

async function send(method: string, path: string, body?: string | Uint8Array): Promise<Answer> {
  const response = await fetch(address + path, { method, body: body as string });
  const answer = (await response.json()) as Answer;
  if (!response.ok) throw new Error(`${method} ${path}: ${answer.error?.text ?? response.status}`);
  return answer;
}

async function waitUntilRead(id: string): Promise<void> {
  for (;;) {
    const parcel = await send('GET', `/api/parcels/${id}`);
    if (parcel.state === 'ready') return;
    if (parcel.state === 'failed') throw new Error(parcel.faults?.map((fault) => fault.message).join('\n'));
    await new Promise((resolve) => setTimeout(resolve, 300));
  }
}
