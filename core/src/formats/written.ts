import type { Loss } from '../scene/loss.ts';
import type { ImageEntry } from '../scene/material.ts';

/** What a writer made: files by relative path, the model first, and what the format could not say. */
export interface WrittenModel {
  files: Map<string, Uint8Array>;
  losses: Loss[];
}

/** How images are referred to by a written model. */
export interface ImageTarget {
  /** Path relative to the model, with forward slashes. */
  path: string;
  /** Content to carry inside the model, or null to only refer to it. */
  embed: Uint8Array | null;
}

/** Where an image lies beside the model, and under which path the model refers to it. */
export type TargetOf = (image: ImageEntry) => ImageTarget;

/** Refers to images by the relative path the source wrote, or else by their bare name. */
export function plainTarget(image: ImageEntry): ImageTarget {
  const written = (image.relative ?? image.written).replaceAll('\\', '/');
  const outside = /^([A-Za-z]:|\/|\.\.|[a-z]+:)/.test(written) || written.includes('../');
  return {
    path: outside ? written.slice(written.lastIndexOf('/') + 1) : written.replace(/^\.\//, ''),
    embed: null,
  };
}

/** Collects losses, each once. */
export class Losses {
  private readonly found = new Map<string, Loss>();

  add(loss: Loss): void {
    this.found.set(JSON.stringify(loss), loss);
  }

  list(): Loss[] {
    return [...this.found.values()];
  }
}
