/// <reference path="./draco3dgltf.d.ts" />
import { type Document, type GLTF, type JSONDocument, Logger, NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer';

/** Writes nodes where they are, to the last digit. */
class ExactIO extends NodeIO {
  override async writeJSON(
    gltf: Document,
    options?: Parameters<NodeIO['writeJSON']>[1],
  ): Promise<JSONDocument> {
    const written = await super.writeJSON(gltf, options);
    placeExactly(written.json, gltf);
    return written;
  }
}

let shared: Promise<NodeIO> | null = null;

/** Reads and writes glTF with every extension known, Draco and meshopt decoding included; made once. */
export function gltfIo(): Promise<NodeIO> {
  shared ??= create();
  return shared;
}

async function create(): Promise<NodeIO> {
  await MeshoptDecoder.ready;
  // What it would write to the console of whoever runs us stands among the remarks.
  return new ExactIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({
      'draco3d.decoder': await draco3d.createDecoderModule(),
      'meshopt.decoder': MeshoptDecoder,
    });
}

/**
 * The library leaves out what is within a hundred-thousandth of nothing, which is much for a jewel, or far out
 * on a crane.
 */
function placeExactly({ nodes }: GLTF.IGLTF, gltf: Document): void {
  gltf
    .getRoot()
    .listNodes()
    .forEach((node, i) => {
      const written = nodes?.[i];
      if (!written) return;
      const [translation, rotation, scale] = [node.getTranslation(), node.getRotation(), node.getScale()];
      if (translation.some((component) => component !== 0)) written.translation = translation;
      if (rotation.some((component, k) => component !== (k === 3 ? 1 : 0))) written.rotation = rotation;
      if (scale.some((component) => component !== 1)) written.scale = scale;
    });
}
