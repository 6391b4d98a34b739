import type { AssetState } from '../asset/asset.ts';
import type { DecodeOptions } from '../images/decodeOptions.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import type { ImageInfo } from '../images/probe.ts';
import type { FileSource } from '../parcel/fileSource.ts';
import type { Limits } from '../parcel/limits.ts';
import type { SceneDocument } from '../scene/document.ts';
import type { TakeoffRow } from '../shape/takeoff.ts';

/**
 * Where bytes of strangers are decoded and read so that it can be stopped: threads with a deadline and a
 * ceiling.
 */
export interface Guard {
  decode(bytes: Uint8Array, path: string, info: ImageInfo, options: DecodeOptions): Promise<PixelBuffer>;
  readModel(path: string, source: FileSource, limits: Limits): Promise<SceneDocument>;
  /** The document is handed over; whoever asks has it no more. */
  takeOff(document: SceneDocument, path: string): Promise<TakeoffRow[]>;
  /** The geometry as edits have left it, for the view, as GLB. The document is handed over as well. */
  preview(document: SceneDocument, state: AssetState, path: string): Promise<Uint8Array>;
}

/** One for the whole process, however many bundles of this module it has loaded. */
const KEY = Symbol.for('kinkajou.guard');
const held = globalThis as { [KEY]?: Guard | null };

/**
 * What decoders and readers run behind from now on; null lets them run where they are called, as tests do.
 */
export function installGuard(guard: Guard | null): void {
  held[KEY] = guard;
}

/** The guard of this process; null where files are read without one. */
export function installedGuard(): Guard | null {
  return held[KEY] ?? null;
}
