import { request as ask, createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { encodePng } from '@kinkajou/core/images/encode';
import { expect, type Page, test } from '@playwright/test';
import { foldView, looked, sendParcel } from './parcels.ts';

/** What lies between a browser and the server: it can be cut, and it can be slow. */
class Line {
  /** Milliseconds that each answer waits. */
  slow = 0;
  private server: Server | null = null;
  private port = 0;

  constructor(private readonly to: URL) {}

  async open(): Promise<string> {
    this.server = createServer((incoming, outgoing) => {
      const { method, headers, url } = incoming;
      const through = ask(
        { host: this.to.hostname, port: this.to.port, method, path: url, headers },
        (answer) => {
          setTimeout(() => {
            outgoing.writeHead(answer.statusCode ?? 502, answer.headers);
            answer.pipe(outgoing);
          }, this.slow);
        },
      );
      through.on('error', () => outgoing.destroy());
      outgoing.on('close', () => through.destroy());
      incoming.pipe(through);
    });
    await new Promise<void>((resolve) => this.server?.listen(this.port, '127.0.0.1', resolve));
    this.port = (this.server.address() as AddressInfo).port;
    return `http://127.0.0.1:${this.port}`;
  }

  async cut(): Promise<void> {
    const { server } = this;
    this.server = null;
    server?.closeAllConnections();
    await new Promise((resolve) => (server ? server.close(resolve) : resolve(null)));
  }
}

const OBJ = 'mtllib post.mtl\no Post\nusemtl Tar\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n';
const text = (content: string) => new TextEncoder().encode(content);
const told = (page: Page) => page.locator('footer').getByRole('status');

test('a server that is gone, slow or back is said at the status line; what was done meanwhile is kept and sent', async ({
  page,
  request,
  baseURL,
}) => {
  const line = new Line(new URL(baseURL ?? ''));
  const address = await line.open();
  await foldView(page);
  const { post: id } = await sendParcel(request, 'Post', {
    'post.obj': text(OBJ),
    'post.mtl': text('newmtl Tar\nKd 0.1 0.1 0.1\nPr 0.5\n'),
  });
  await looked(request, id);
  const logged = async () =>
    (await (await request.get(`/api/assets/${id}`)).json()).log.map(({ text }: { text: string }) => text);
  // The piece of the page that holds the view does not come at first.
  let refused = 0;
  await page.route('**/_next/static/chunks/*.js', async (route) => {
    const answer = await route.fetch();
    const isView = (await answer.text()).includes('A person of 1.75 m beside the asset');
    if (isView && refused < 4) {
      refused += 1;
      await route.abort();
    } else await route.fulfill({ response: answer });
  });
  await page.goto(`${address}/assets/${id}/slots`);
  // Folded, it is not asked for.
  const unfold = page.getByRole('button', { name: 'Unfold the view' });
  await expect(unfold).toBeVisible();
  expect(refused).toBe(0);
  await unfold.click();
  await expect(page.getByRole('complementary', { name: 'View' })).toBeVisible();
  expect(refused).toBe(4);
  await page.unrouteAll({ behavior: 'wait' });
  await page.evaluate(() =>
    localStorage.setItem(
      'kinkajou-choices',
      JSON.stringify({ state: { tourSeen: true, view: { size: 'folded' } }, version: 2 }),
    ),
  );
  await page.reload();
  const slot = page.locator('[data-slot="Tar/baseColor"]');
  await expect(slot).toBeVisible();
  await expect(page.getByText('worker idle')).toBeVisible();

  await line.cut();
  await expect(told(page)).toContainText('The server does not answer. Trying again');
  // Other steps are there all the same.
  await page.keyboard.press('4');
  await expect(page.getByRole('heading', { name: 'Colour', exact: true })).toBeVisible();
  await page.keyboard.press('3');
  await expect(slot).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'Colour', exact: true })).toBeVisible();
  await page.goForward();
  await slot.click();
  await page.keyboard.press('Delete');
  await expect(told(page)).toContainText('What you did is kept here and sent when it does');
  await expect(slot).toHaveAttribute('aria-label', /empty/);
  expect(await logged()).toEqual([]);

  await line.open();
  await expect(told(page)).toBeHidden();
  await expect.poll(logged).toHaveLength(1);
  await expect(slot).toHaveAttribute('aria-label', /empty/);

  // Slow as over a bad line: it is said, and typing goes on; a second window sees what was done.
  line.slow = 6000;
  await page.keyboard.press('Control+z');
  await expect(slot).not.toHaveAttribute('aria-label', /empty/);
  await expect(told(page)).toContainText('The server takes long to answer');
  line.slow = 0;
  await expect(told(page)).toBeHidden();
  await expect.poll(async () => (await (await request.get(`/api/assets/${id}`)).json()).cursor).toBe(0);

  const second = await page.context().newPage();
  await second.goto(`${address}/assets/${id}/slots`);
  const there = second.locator('[data-slot="Tar/baseColor"]');
  await expect(there).toBeVisible();
  await page.keyboard.press('Control+y');
  await expect(there).toHaveAttribute('aria-label', /empty/);
  await second.close();
  await line.cut();
});

test('what the store has lost is said, stands as stripes, and is shown once it is there again', async ({
  page,
  request,
}) => {
  const tar = await encodePng({ width: 2, height: 2, components: 3, data: new Uint8Array(12).fill(40) });
  const files = {
    'stump.obj': text(OBJ.replace('post.mtl', 'stump.mtl')),
    'stump.mtl': text('newmtl Tar\nmap_Kd stump_tar.png\n'),
    'stump_tar.png': tar,
  };
  const { stump: id } = await sendParcel(request, 'Stump', files);
  await looked(request, id);
  const lost = { blobs: true, pictures: true };
  for (const kind of ['blobs', 'pictures'] as const)
    await page.route(`**/api/${kind}/**`, (route) =>
      lost[kind] ? route.fulfill({ status: 404, json: { error: { code: 'notFound' } } }) : route.continue(),
    );
  await page.goto(`/assets/${id}/slots`);
  await expect(told(page)).toContainText('The geometry cannot be read from the store');
  lost.blobs = false;
  await expect(told(page)).toContainText('stump_tar.png cannot be read from the store');
  lost.pictures = false;
  await expect(told(page)).toBeHidden();
});
