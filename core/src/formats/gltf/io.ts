/// <reference path="./draco3dgltf.d.ts" />
import { Logger, NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import draco3d from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer';

let shared: Promise<NodeIO> | null = null;

/** Reads and writes glTF with every extension known, Draco and meshopt decoding included; made once. */
export function gltfIo(): Promise<NodeIO> {
  shared ??= create();
  return shared;
}

async function create(): Promise<NodeIO> {
  await MeshoptDecoder.ready;
  // What it would write to the console of whoever runs us stands among the remarks.
  return new NodeIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions(ALL_EXTENSIONS)
    .registerDependencies({
      'draco3d.decoder': await draco3d.createDecoderModule(),
      'meshopt.decoder': MeshoptDecoder,
    });
}
