import { access, mkdir, rename, rm, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { filesIn, type StoredFile } from './filesIn.ts';
import type { Arrived } from './incoming.ts';

/** What was used within this time is left where it is: somebody may be about to open it. */
const IN_USE_MS = 60_000;

/**
 * Contents of a store elsewhere, kept on this machine up to so many bytes; the ones unused for longest go
 * first.
 */
export class BlobCache {
  private readonly sizes = new Map<string, { size: number; used: number }>();
  private bytes = 0;
  private ready: Promise<void> | null = null;

  constructor(
    private readonly root: string,
    private readonly maxBytes: number,
  ) {}

  /** Where it lies, or null where it is not kept here. */
  async find(hash: string): Promise<string | null> {
    await this.begin();
    const path = this.pathOf(hash);
    const there = await access(path).then(
      () => true,
      () => false,
    );
    if (there) this.touch(hash);
    else this.forget(hash);
    return there ? path : null;
  }

  /** Takes a whole content in, by renaming, and tells where it lies. */
  async keep({ path, sha256, size }: Arrived): Promise<string> {
    await this.begin();
    const target = this.pathOf(sha256);
    await mkdir(dirname(target), { recursive: true });
    await rename(path, target);
    this.forget(sha256);
    this.sizes.set(sha256, { size, used: Date.now() });
    this.bytes += size;
    await this.shrink();
    return target;
  }

  async drop(hash: string): Promise<void> {
    this.forget(hash);
    await rm(this.pathOf(hash), { force: true });
  }

  private pathOf(hash: string): string {
    return join(this.root, hash.slice(0, 2), hash.slice(2, 4), hash);
  }

  /** What an earlier process left here counts, in the order in which it was used. */
  private begin(): Promise<void> {
    this.ready ??= (async () => {
      const found: StoredFile[] = [];
      for await (const file of filesIn(this.root)) found.push(file);
      for (const { name, size, modified } of found.sort((a, b) => a.modified - b.modified)) {
        this.sizes.set(name, { size, used: modified });
        this.bytes += size;
      }
    })();
    return this.ready;
  }

  private touch(hash: string): void {
    const one = this.sizes.get(hash);
    if (!one) return;
    this.sizes.delete(hash);
    this.sizes.set(hash, { ...one, used: Date.now() });
    // So that the next process knows, too; it does not matter when this fails.
    utimes(this.pathOf(hash), new Date(), new Date()).catch(() => undefined);
  }

  private forget(hash: string): void {
    this.bytes -= this.sizes.get(hash)?.size ?? 0;
    this.sizes.delete(hash);
  }

  private async shrink(): Promise<void> {
    const before = Date.now() - IN_USE_MS;
    for (const [hash, { used }] of [...this.sizes]) {
      if (this.bytes <= this.maxBytes || used > before) return;
      await this.drop(hash);
    }
  }
}
