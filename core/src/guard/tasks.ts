import type { MessagePort } from 'node:worker_threads';
import type { AssetState } from '../asset/asset.ts';
import { editedDocument } from '../asset/editedDocument.ts';
import { toKinkajouError } from '../errors.ts';
import { decodeHere } from '../images/decode.ts';
import type { DecodeOptions } from '../images/decodeOptions.ts';
import type { ImageInfo } from '../images/probe.ts';
import type { SourceFile } from '../parcel/fileSource.ts';
import type { Limits } from '../parcel/limits.ts';
import { previewGlb } from '../preview/previewGlb.ts';
import { readModelHere } from '../readModel.ts';
import type { SceneDocument } from '../scene/document.ts';
import { takeOff } from '../shape/takeoff.ts';
import type { GuardFault } from './fault.ts';
import { remoteSource } from './remoteSource.ts';

/**
 * What a guarded thread is asked to do. Files of the source are asked for through the port, which also tells
 * of life.
 */
export type GuardTask =
  | {
      kind: 'decode';
      bytes: Uint8Array;
      path: string;
      info: ImageInfo;
      options: DecodeOptions;
      port: MessagePort;
    }
  | {
      kind: 'readModel';
      path: string;
      name: string;
      files: readonly SourceFile[];
      streams: boolean;
      limits: Limits;
      port: MessagePort;
    }
  | { kind: 'takeOff'; path: string; document: SceneDocument; port: MessagePort }
  | { kind: 'preview'; path: string; document: SceneDocument; state: AssetState; port: MessagePort };

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
  if (task.kind === 'takeOff') return Promise.resolve(takeOff(task.document));
  if (task.kind === 'preview') {
    const { document, keys } = editedDocument(task.document, task.state);
    return previewGlb(document, keys);
  }
  return readModelHere(task.path, remoteSource(task), task.limits);
}
