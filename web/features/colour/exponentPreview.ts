'use client';

import type { SlotAddress } from '@kinkajou/core/asset/asset';
import type { Material } from '@kinkajou/core/scene/material';
import { create } from 'zustand';

/** An exponent that is being tried: the view shows it, nothing is recorded yet. */
interface Preview {
  slots: readonly SlotAddress[];
  exponent: number | null;
  set(part: { slots: readonly SlotAddress[]; exponent: number | null }): void;
}

/** An exponent that is tried in the view before it is taken. */
export const useExponentPreview = create<Preview>()((set) => ({
  slots: [],
  exponent: null,
  set: (part) => set(part),
}));

/** The materials as they look with the exponent that is being tried. */
export function withPreview(
  materials: readonly Material[],
  { slots, exponent }: Pick<Preview, 'slots' | 'exponent'>,
): readonly Material[] {
  if (exponent === null || slots.length === 0) return materials;
  return materials.map((material) => {
    const own = slots.filter((slot) => slot.material === material.key);
    if (own.length === 0) return material;
    const channels = { ...material.channels };
    for (const { channel } of own) {
      const existing = channels[channel];
      if (existing?.map) channels[channel] = { ...existing, map: { ...existing.map, exponent } };
    }
    return { ...material, channels };
  });
}
