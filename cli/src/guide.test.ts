import { mkdir, mkdtemp, readdir, readFile, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { beforeAll, describe, expect, it } from 'vitest';
import { smallParcel } from '../../core/src/test/harbour.ts';
import { fendersOf } from '../../demo/src/cargoFenders.ts';
import { PARCELS, parcelZip } from '../../demo/src/harrowQuay.ts';
import type { DemoParcel } from '../../demo/src/scene.ts';
import { callIn } from './test/call.ts';

const GUIDE = fileURLToPath(new URL('../../docs/guide', import.meta.url));
/** Images of the harbour are drawn this small: what the lines say does not depend on their size. */
const SIZE = 32;
const HOUSE =
  '{"rulebook":1,"title":"House","rules":[{"name":"Rope is rope","when":{"material":"*rope*"},"then":[{"do":"alpha","mode":"opaque"}]}]}';
let folder: string;

/** Lines of a page, as a shell would split them, with the exit code that a remark promises. */
function linesOf(page: string): { line: string; args: string[]; exit: number }[] {
  const block = /```sh\n([\s\S]*?)```/.exec(page)?.[1] ?? '';
  return block
    .split('\n')
    .filter(Boolean)
    .map((line) => {
      const [call, remark = ''] = line.split(/\s+# /);
      const args = [...call.matchAll(/'([^']*)'|(\S+)/g)].map(([, quoted, plain]) => quoted ?? plain);
      return { line, args: args.slice(1), exit: Number(/^exit (\d)/.exec(remark)?.[1] ?? 0) };
    });
}

/** The harbour's parcels as zips and unpacked; of the fenders a few. */
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'kinkajou-guide-'));
  await writeFile(join(folder, 'house.json'), HOUSE);
  for (const [id, make] of Object.entries(PARCELS)) {
    const parcel: DemoParcel =
      id === 'cargo-fenders' ? await fendersOf([1, 3, 28, 38]) : await smallParcel(make, SIZE);
    await writeFile(join(folder, `${id}.zip`), await parcelZip(parcel));
    for (const [path, bytes] of Object.entries(parcel.files)) {
      await mkdir(dirname(join(folder, path)), { recursive: true });
      await writeFile(join(folder, path), bytes);
    }
  }
});

const pages = (await readdir(GUIDE)).filter((name) => /^\d\d-.*\.md$/.test(name)).sort();

describe('the guide', () => {
  it('has a page for each of twenty-one situations, all of them in its list', async () => {
    const list = await readFile(join(GUIDE, 'README.md'), 'utf8');
    expect(pages).toHaveLength(21);
    expect([...list.matchAll(/\((\d\d-[^)]+\.md)\)/g)].map(([, name]) => name)).toEqual(pages);
  });

  it.each(pages)('does what its page says: %s', async (name) => {
    const page = await readFile(join(GUIDE, name), 'utf8');
    expect(page).toMatch(
      /^# .+\n\n.+\n\n\*Parcel to try it on: .+\*\n\n!\[.+\]\(pictures\/\d\d\.png\)\n\n## In the page\n\n1\. /,
    );
    const lines = linesOf(page);
    expect(lines.length).toBeGreaterThan(0);
    for (const { line, args, exit } of lines) {
      const ran = await callIn(folder, args);
      expect(ran.exit, `${line}\n${ran.out}${ran.err}`).toBe(exit);
    }
  });
});
