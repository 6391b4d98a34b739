import { mkdir, writeFile, rm } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { scramble } from '/work/main/demo/src/scramble/scramble.ts';
const [asset, scheme, relation, loss, format] = process.argv.slice(2);
const p = await scramble({ kind: 'x', asset, scheme, relation, loss, format } as any);
await rm('/tmp/one', { recursive: true, force: true });
for (const [path, bytes] of Object.entries(p.files)) { await mkdir(dirname(join('/tmp/one', path)), { recursive: true }); await writeFile(join('/tmp/one', path), bytes); }
