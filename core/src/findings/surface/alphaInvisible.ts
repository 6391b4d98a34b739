import type { Check } from '../findingContext.ts';

/**
 * A material with opacity 0 all over: nearly always transparency written as opacity, or the other way round.
 */
export const alphaInvisible: Check = ({ source, state }) =>
  state.materials
    .filter((material) => material.channels.opacity?.value === 0)
    .map((material) => {
      const { d, Tr, TransparencyFactor } = material.extras;
      const written = [
        d !== undefined && `d ${d}`,
        Tr !== undefined && `Tr ${Tr}`,
        TransparencyFactor !== undefined && `TransparencyFactor ${TransparencyFactor}`,
      ].filter(Boolean);
      const why = 'the writer took transparency for opacity';
      return {
        code: 'alpha.invisible',
        step: 'surface' as const,
        severity: 'error' as const,
        key: `alpha.invisible:${material.key}`,
        title: 'Fully invisible material',
        subject: material.key,
        message: `${material.key} has opacity 0 on ${(source.facesPerMaterial[material.key] ?? 0).toLocaleString('en')} faces. ${written.length > 0 ? `The file says ${written.join(' and ')}: m` : 'M'}ost likely ${why}.`,
        evidence: [...written.map((text) => `the file says ${text}`), 'nobody models what can never be seen'],
        mend: {
          kind: 'setAlpha' as const,
          materials: [material.key],
          change: { opacity: 1, ...(material.channels.opacity?.map ? {} : { alphaMode: 'opaque' as const }) },
          origin: { from: 'evidence' as const, detail: why },
        },
        safe: true,
        mendLabel: 'Make opaque',
        target: { material: material.key, channel: 'opacity' as const },
      };
    });
