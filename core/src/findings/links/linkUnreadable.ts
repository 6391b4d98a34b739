import { usesOfImages } from '../../asset/asset.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { Check } from '../findingContext.ts';

/** An image of the parcel whose header is false or damaged. Where a slot reads it, that is an error. */
export const linkUnreadable: Check = ({ state, images, own: ownFiles }) => {
  const uses = usesOfImages(state);
  const near = new Set(ownFiles.map((image) => image.path));
  return images
    .filter(
      (image) =>
        image.fault && (near.has(image.path) || state.images.some((entry) => entry.resolved === image.path)),
    )
    .map((image) => {
      const readBy = state.images
        .filter((entry) => entry.resolved === image.path)
        .flatMap((entry) => uses.get(entry.key) ?? []);
      return {
        code: 'link.unreadable',
        step: 'links' as const,
        severity: readBy.length > 0 ? ('error' as const) : ('warning' as const),
        key: `link.unreadable:${image.path}`,
        title: 'Image cannot be read',
        subject: image.path,
        message: `${image.path}: ${image.fault?.message}.`,
        evidence: readBy.map((slot) => `feeds ${slot.material}, ${channelInWords(slot.channel)}`),
        mend: null,
        safe: false,
        mendLabel: '',
        target: { image: image.path, material: readBy[0]?.material, channel: readBy[0]?.channel },
      };
    });
};
