import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { mendAsset, openAsset } from '../inspect.ts';
import { folderSource } from '../parcel/folderSource.ts';
import { scratch } from '../test/tools.ts';
import { handOff } from './handoff.ts';

/** Models that other people made to try readers with, from Debian's package of them. */
const MODELS = '/usr/share/assimp/models';
/** One of each way to write: glTF, USD, FBX by values alone, OBJ cut into solids, the source file itself. */
const DESTINATIONS = ['web-gltf', 'compositor-usd', 'render-specgloss', 'building-parts', 'modelling'];

/** What came of a model on its way out that does not hold, by destination. */
async function failuresOf(folder: string, name: string, destinations: readonly string[]) {
  const asset = await openAsset(await folderSource(folder), name);
  const { edits, state, findings } = mendAsset(asset.source, asset.images, 'none');
  const out: Record<string, string[]> = {};
  for (const id of destinations) {
    const destination = findDestination(id) as Destination;
    const { receipt } = await handOff({ ...asset, state, edits, findings, destination });
    const failed = receipt.readBack.checks.filter(({ ok }) => !ok);
    const open = receipt.differences.filter(({ exempt }) => exempt === null);
    const words = [
      ...failed.map(({ check, found }) => `${check}: ${found}`),
      ...open.map(({ code }) => code),
    ];
    if (words.length > 0) out[id] = words;
  }
  return out;
}

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
    expect(await failuresOf(join(MODELS, dirname(path)), basename(path), DESTINATIONS)).toEqual({});
  });

  // As another program writes them: bones that are skins, loose points, strong lights, early and single keys,
  // micrometres, names that repeat, lines among faces, outlines that cross themselves.
  it.each([
    ['X/test_cube_text.x', 'glb'],
    ['Collada/cameras.dae', 'fbx'],
    ['LWS/move_x_oldformat_56.lws', 'glb'],
    ['BLEND/box.blend', 'fbx'],
    ['BLEND/Suzanne_248.blend', 'fbx'],
    ['COB/molecule.cob', 'fbx'],
    ['ASE/ThreeCubesGreen_UTF16BE.ASE', 'fbx'],
    ['MDL/MDL (HL1)/man.mdl', 'fbx'],
    ['DXF/lineTest.dxf', 'fbx'],
    ['LWO/LWO2/concave_self_intersecting.lwo', 'fbx'],
    ['3DS/test1.3ds', 'glb'],
  ])('%s as %s of another program', async (path, extension) => {
    const folder = join(scratch, path.replaceAll(/\W/g, '_'));
    mkdirSync(folder, { recursive: true });
    const name = `model.${extension}`;
    const format = extension === 'glb' ? 'glb2' : extension;
    execFileSync('assimp', ['export', join(MODELS, path), join(folder, name), `-f${format}`], {
      stdio: 'ignore',
    });
    expect(
      await failuresOf(folder, name, ['web-gltf', 'compositor-usd', 'modelling', 'engine-packed']),
    ).toEqual({});
  });
});
