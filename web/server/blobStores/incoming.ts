import { createHash, randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { pastLimit } from '@kinkajou/core/parcel/limits';

/** What arrives, as a file that nothing names yet. */
export interface Arrived {
  path: string;
  sha256: string;
  size: number;
}

/** A folder in which contents lie until they are whole. */
export class Incoming {
  constructor(private readonly folder: string) {}

  async newPath(): Promise<string> {
    await mkdir(this.folder, { recursive: true });
    return join(this.folder, randomUUID());
  }

  async ofBytes(bytes: Uint8Array): Promise<Arrived> {
    const path = await this.newPath();
    await writeFile(path, bytes);
    return { path, sha256: sha256(bytes), size: bytes.length };
  }

  /** Hashes on the way, and leaves nothing behind when the stream breaks or passes the limit. */
  async ofStream(stream: NodeJS.ReadableStream, name: string, maxBytes: number): Promise<Arrived> {
    const path = await this.newPath();
    const hash = createHash('sha256');
    let size = 0;
    const meter = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        size += chunk.length;
        if (size > maxBytes) return done(pastLimit('fileBytes', name, size, maxBytes));
        hash.update(chunk);
        done(null, chunk);
      },
    });
    try {
      await pipeline(stream, meter, createWriteStream(path));
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    return { path, sha256: hash.digest('hex'), size };
  }

  /** Throws when nothing can be written. */
  async check(): Promise<void> {
    const path = await this.newPath();
    await writeFile(path, 'probe');
    await rm(path);
  }
}
