import { availableParallelism } from 'node:os';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import type { Piscina } from 'piscina';
import type { AssetState } from '../asset/asset.ts';
import { KinkajouError, toKinkajouError } from '../errors.ts';
import type { DecodeOptions } from '../images/decodeOptions.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import type { ImageInfo } from '../images/probe.ts';
import type { FileSource } from '../parcel/fileSource.ts';
import { type Limits, limitVariable, pastLimit } from '../parcel/limits.ts';
import type { SceneDocument } from '../scene/document.ts';
import type { TakeoffRow } from '../shape/takeoff.ts';
import { buffersOf } from './buffers.ts';
import { revived } from './fault.ts';
import type { Guard } from './guard.ts';
import type { BytesAnswer, BytesRequest } from './remoteSource.ts';
import type { GuardResult, GuardTask } from './tasks.ts';
import { Watchdog } from './watchdog.ts';

const MIB = 1024 ** 2;
/** A thread without work ends after so long. */
const IDLE_MS = 30_000;
/** How often memory is looked at while something is read. */
const LOOK_MS = 250;

/**
 * Decoders and readers in threads. Each file has as long as `limits.seconds` says and a second more for each
 * megabyte or million pixels, counted while the thread is silent, and may take `limits.megabytes` of memory;
 * then its thread is ended and the file refused as `limit.seconds` or `limit.megabytes`.
 */
export class ThreadGuard implements Guard {
  private pool: Promise<Piscina> | null = null;
  private readonly watchdog: Watchdog;

  /**
   * `entry` is `thread.mjs` beside this file, by a name that no bundler moves. Nothing is started before it
   * is needed.
   */
  constructor(
    private readonly entry: URL,
    private readonly limits: Limits,
    /**
     * Models below so many bytes are read in this thread, under a watchdog: for programs that do one thing.
     */
    private readonly smallBytes = 0,
  ) {
    this.watchdog = new Watchdog(limits.seconds);
  }

  private threads(): Promise<Piscina> {
    this.pool ??= import('piscina').then(
      ({ Piscina }) =>
        new Piscina({
          filename: this.entry.href,
          minThreads: 0,
          maxThreads: Math.max(2, availableParallelism()),
          idleTimeout: IDLE_MS,
          execArgv: ['--no-deprecation'],
          resourceLimits: { maxOldGenerationSizeMb: this.limits.megabytes },
        }),
    );
    return this.pool;
  }

  decode(
    bytes: Uint8Array,
    path: string,
    info: ImageInfo,
    { maxSize, layer }: DecodeOptions,
  ): Promise<PixelBuffer> {
    const { port1, port2 } = new MessageChannel();
    const extra = (info.width * info.height) / 1e6;
    const task: GuardTask = { kind: 'decode', bytes, path, info, options: { maxSize, layer }, port: port2 };
    return this.run(task, { host: port1, extra }) as Promise<PixelBuffer>;
  }

  async readModel(path: string, source: FileSource, limits: Limits): Promise<SceneDocument> {
    const size = source.files.find((file) => file.path === path)?.size ?? 0;
    if (size < this.smallBytes) {
      // Programs that read nothing start without the readers.
      const { readModelHere } = await import('../readModel.ts');
      return this.watchdog.during(path, () => readModelHere(path, source, limits));
    }
    const { port1, port2 } = new MessageChannel();
    serve(port1, source);
    const extra = size / MIB;
    const streams = source.stream !== undefined;
    const task: GuardTask = {
      kind: 'readModel',
      path,
      name: source.name,
      files: source.files,
      streams,
      limits,
      port: port2,
    };
    return this.run(task, { host: port1, extra }) as Promise<SceneDocument>;
  }

  takeOff(document: SceneDocument, path: string): Promise<TakeoffRow[]> {
    return this.withDocument(document, (port) => ({ kind: 'takeOff', path, document, port })) as Promise<
      TakeoffRow[]
    >;
  }

  preview(document: SceneDocument, state: AssetState, path: string): Promise<Uint8Array> {
    return this.withDocument(document, (port) => ({
      kind: 'preview',
      path,
      document,
      state,
      port,
    })) as Promise<Uint8Array>;
  }

  /** Hands a document over, with a second more for each million corners. */
  private withDocument(document: SceneDocument, task: (port: MessagePort) => GuardTask): Promise<unknown> {
    const { port1, port2 } = new MessageChannel();
    const corners = document.meshes.reduce((sum, { faceCorners }) => sum + faceCorners.length, 0);
    return this.run(task(port2), { host: port1, extra: corners / 1e6, moved: buffersOf(document) });
  }

  async close(): Promise<void> {
    await (await this.pool)?.destroy();
  }

  private async run(
    task: GuardTask,
    { host, extra, moved = [] }: { host: MessagePort; extra: number; moved?: ArrayBuffer[] },
  ): Promise<unknown> {
    const { path } = task;
    const stop = new AbortController();
    const seconds = this.limits.seconds + extra;
    let reason: KinkajouError | null = null;
    const end = (why: KinkajouError) => {
      reason ??= why;
      stop.abort();
    };
    let silence: NodeJS.Timeout | undefined;
    const alive = () => {
      clearTimeout(silence);
      silence = setTimeout(() => end(pastSeconds(path, seconds)), seconds * 1000);
    };
    // It may wait for a thread before; the first message says that it has begun.
    host.on('message', alive);
    const before = process.memoryUsage.rss();
    const looking = setInterval(() => {
      const grown = (process.memoryUsage.rss() - before) / MIB;
      if (grown > this.limits.megabytes) end(pastLimit('megabytes', path, grown, this.limits.megabytes));
    }, LOOK_MS);
    try {
      const result = (await (
        await this.threads()
      ).run(task, { signal: stop.signal, transferList: [task.port, ...moved] })) as GuardResult;
      if ('fault' in result) throw revived(result.fault);
      return result.value;
    } catch (error) {
      if (reason) throw reason;
      throw (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY'
        ? pastLimit('megabytes', path, this.limits.megabytes, this.limits.megabytes)
        : error;
    } finally {
      clearTimeout(silence);
      clearInterval(looking);
      host.close();
    }
  }
}

/** Answers a thread's requests for bytes of a source. */
function serve(port: MessagePort, source: FileSource): void {
  const pieces = new Map<string, AsyncIterator<Uint8Array>>();
  const bytesOf = async ({ kind, path }: BytesRequest): Promise<Uint8Array | null> => {
    if (kind === 'read' || !source.stream) return source.read(path);
    const iterator = pieces.get(path) ?? source.stream(path)[Symbol.asyncIterator]();
    pieces.set(path, iterator);
    const { done, value } = await iterator.next();
    if (!done) return value;
    pieces.delete(path);
    return null;
  };
  port.on('message', async (request: BytesRequest | { kind: 'begun' }) => {
    if (request.kind === 'begun') return;
    const { id, path } = request;
    let answer: BytesAnswer;
    try {
      answer = { id, bytes: await bytesOf(request) };
    } catch (error) {
      answer = { id, fault: toKinkajouError(error, 'source.unreadable', { file: path }).toJSON() };
    }
    port.postMessage(answer);
  });
}

function pastSeconds(path: string, seconds: number): KinkajouError {
  return new KinkajouError(
    'limit.seconds',
    `it was not read after ${Math.round(seconds)} seconds, so it was given up`,
    { file: path },
    `It may be damaged; export it again. Large files get more time with ${limitVariable('seconds')}.`,
  );
}
