import type { Limits } from '../parcel/limits.ts';

/** How an image is decoded. */
export interface DecodeOptions {
  /** Longest side; larger images are averaged down. 0 keeps the size. */
  maxSize?: number;
  limits?: Limits;
  /** Of EXR: which layer. */
  layer?: string;
}
