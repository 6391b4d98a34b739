import type { MessagePort } from 'node:worker_threads';
import { toKinkajouError } from '../errors.ts';
import { readModelHere } from '../formats/readModel.ts';
import { decodeHere } from '../images/decode.ts';
import type { DecodeOptions } from '../images/decodeOptions.ts';
import type { ImageInfo } from '../images/probe.ts';
import type { SourceFile } from '../parcel/fileSource.ts';
import type { Limits } from '../parcel/limits.ts';
import type { GuardFault } from './fault.ts';
import { remoteSource } from './remoteSource.ts';

/** What a guarded thread is asked to do. Files of the source are asked for through the port, which also tells of life. */
export type GuardTask =
  | { kind: 'decode'; bytes: Uint8Array; path: string; info: ImageInfo; options: DecodeOptions; port: MessagePort }
  | { kind: 'readModel'; path: string; name: string; files: readonly SourceFile[]; streams: boolean; limits: Limits; port: MessagePort };

/** Errors lose their kind on the way between threads, so they go as data. */
export type GuardResult = { value: unknown } | { fault: GuardFault };

/** Does the task in this thread. */
export async function perform(task: GuardTask): Promise<GuardResult> {
  try {
    task.port.postMessage({ kind: 'begun' });
    return { value: await run(task) };
  } catch (error) {
    return { fault: toKinkajouError(error, 'model.broken', { file: task.path }).toJSON() };
  } finally {
    task.port.close();
  }
}

function run(task: GuardTask): Promise<unknown> {
  if (task.kind === 'decode') return decodeHere(task.bytes, task.path, task.info, task.options);
  return readModelHere(task.path, remoteSource(task), task.limits);
}

/** Buffers that are worth handing over instead of copying; small ones may be slices of a pool that others use. */
const WORTH_MOVING = 65_536;

/** All large buffers that a value holds, each once. */
export function buffersOf(value: unknown): ArrayBuffer[] {
  const found = new Set<ArrayBuffer>();
  const seen = new Set<object>();
  const visit = (one: unknown) => {
    if (typeof one !== 'object' || one === null || seen.has(one)) return;
    seen.add(one);
    if (ArrayBuffer.isView(one)) {
      if (one.buffer instanceof ArrayBuffer && one.buffer.byteLength >= WORTH_MOVING) found.add(one.buffer);
      return;
    }
    for (const child of one instanceof Map || one instanceof Set ? one.values() : Object.values(one)) visit(child);
  };
  visit(value);
  return [...found];
}
