import type { AssetState, ParcelImage } from './asset.ts';

/** Materials and images of a state as reports and receipts list them. Plain JSON. */
export function reportState(state: AssetState, files: readonly ParcelImage[]) {
  const byPath = new Map(files.map((file) => [file.path, file]));
  return {
    materials: state.materials.map((material) => ({
      name: material.key,
      workflow: material.workflow,
      doubleSided: material.doubleSided,
      alpha: { mode: material.alphaMode, cutoff: material.alphaCutoff },
      channels: Object.fromEntries(
        Object.entries(material.channels).map(([name, channel]) => [
          name,
          {
            value: channel.value,
            map: channel.map && {
              image: channel.map.image,
              component: channel.map.component,
              space: channel.map.space,
              invert: channel.map.invert,
              uvSet: channel.map.uvSet,
              normalY: name === 'normal' ? channel.map.normalY : null,
            },
          },
        ]),
      ),
    })),
    images: state.images.map((image) => {
      const info = image.resolved ? byPath.get(image.resolved)?.info : null;
      return {
        id: image.key,
        written: image.written,
        resolved: image.resolved,
        status: image.status,
        width: info?.width ?? null,
        height: info?.height ?? null,
        bitDepth: info?.bitDepth ?? null,
        components: info?.components ?? null,
        space: spaceOf(state, image.key),
      };
    }),
  };
}

/** The colour tag that the image's uses agree on, `unknown` where they differ. */
function spaceOf(state: AssetState, key: string): string {
  const tags = new Set(
    state.materials.flatMap((material) =>
      Object.values(material.channels).flatMap((channel) =>
        channel.map?.image === key ? [channel.map.space] : [],
      ),
    ),
  );
  return tags.size === 1 ? [...tags][0] : 'unknown';
}
