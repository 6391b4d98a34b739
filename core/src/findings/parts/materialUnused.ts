import type { Check } from '../findingContext.ts';

/** Materials that no face has. */
export const materialUnused: Check = ({ source, state, parts }) => {
  if (!source.shapes) return [];
  const used = new Set<string>();
  for (const { slots, facts, dropped } of parts()) {
    if (dropped) continue;
    if (facts) for (const { slot } of facts.uvs) used.add(slots[slot] ?? '');
    else for (const key of slots) used.add(key);
  }
  return state.materials
    .filter(({ key }) => !used.has(key))
    .map(({ key }) => ({
      code: 'material.unused',
      step: 'parts',
      severity: 'note',
      key: `material.unused:${key}`,
      title: 'Material is not used',
      subject: key,
      message: `${key}: no face has this material.`,
      evidence: [],
      mend: {
        kind: 'dropMaterials',
        materials: [key],
        origin: { from: 'evidence', detail: 'no face has it' },
      },
      safe: false,
      mendLabel: 'Drop it',
      target: { material: key },
    }));
};
