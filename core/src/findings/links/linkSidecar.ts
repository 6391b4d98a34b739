import type { Check } from '../findingContext.ts';

const SHOWN = 20;

/**
 * Copies that another program made beside the originals, for itself. They are recognised and left out, not
 * deleted.
 */
export const linkSidecar: Check = ({ source, sidecars }) => {
  if (sidecars.length === 0) return [];
  const [first] = sidecars;
  const rest = sidecars.length - SHOWN;
  return [
    {
      code: 'link.sidecar',
      step: 'links',
      severity: 'note',
      key: 'link.sidecar',
      title: 'Converted copies left out',
      subject: source.name,
      message:
        sidecars.length === 1
          ? `${first.path} is a copy of ${first.original} in another type; it is left out.`
          : `${sidecars.length} images are copies of others in another type, such as ${first.path}; they are left out.`,
      evidence: [
        ...sidecars
          .slice(0, SHOWN)
          .map(({ path, original }) => `${path}: same folder, stem and shape as ${original}`),
        ...(rest > 0 ? [`and ${rest} more`] : []),
      ],
      mend: null,
      safe: false,
      mendLabel: '',
      target: { image: first.path },
    },
  ];
};
