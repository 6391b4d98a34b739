import { basename, dirname, join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { mendAsset, openAsset } from '../inspect.ts';
import { folderSource } from '../parcel/folderSource.ts';
import { handOff } from './handoff.ts';

/** Models that other people made to try readers with, from Debian's package of them. */
const MODELS = '/usr/share/assimp/models';
/** One of each way to write: glTF, USD, FBX by values alone, OBJ cut into solids, the source file itself. */
const DESTINATIONS = ['web-gltf', 'compositor-usd', 'render-specgloss', 'building-parts', 'modelling'];

describe('models of strangers go out as they are, and their receipts hold', () => {
  it.each([
    'FBX/animation_with_skeleton.fbx',
    'FBX/box.fbx',
    'FBX/box_orphant_embedded_texture.fbx',
    'FBX/cubes_nonames.fbx',
    'FBX/huesitos.fbx',
    'FBX/maxPbrMaterial_metalRough.fbx',
    'FBX/maxPbrMaterial_specGloss.fbx',
    'FBX/phong_cube.fbx',
    'FBX/spider.fbx',
    'OBJ/box.obj',
    'OBJ/box_UTF16BE.obj',
    'OBJ/cube_usemtl.obj',
    'OBJ/testmixed.obj',
    'glTF2/BoxBadNormals-glTF-Binary/BoxBadNormals.glb',
    'glTF2/BoxTexcoords-glTF/boxTexcoords.gltf',
    'glTF2/BoxTextured-glTF/BoxTextured.gltf',
    'glTF2/glTF-Sample-Models/AnimatedMorphCube-glTF/AnimatedMorphCube.gltf',
    'glTF2/textureTransform/TextureTransformTest.gltf',
    'glTF2/wrongTypes/badObject.gltf',
  ])('%s', async (path) => {
    const asset = await openAsset(await folderSource(join(MODELS, dirname(path))), basename(path));
    const { document, source, images, read } = asset;
    const { edits, state, findings } = mendAsset(source, images, 'none');
    for (const id of DESTINATIONS) {
      const { receipt } = await handOff({
        document,
        source,
        state,
        edits,
        findings,
        images,
        destination: findDestination(id) as Destination,
        read,
      });
      const failed = receipt.readBack.checks
        .filter(({ ok }) => !ok)
        .map(({ check, found }) => `${check}: ${found}`);
      expect({ id, failed, open: receipt.differences.filter(({ exempt }) => exempt === null) }).toEqual({
        id,
        failed: [],
        open: [],
      });
    }
  });
});
