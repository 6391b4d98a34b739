import { describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { handOff } from './handoff.ts';

const prim = (
  name: string,
  width: number,
  material: string,
) => `def Mesh "${name}" (prepend apiSchemas = ["MaterialBindingAPI"]) {
  point3f[] points = [(0, 0, 0), (${width}, 0, 0), (0, 1, 0)]
  int[] faceVertexCounts = [3]
  int[] faceVertexIndices = [0, 1, 2]
  rel material:binding = </Looks/${material}>
}`;
const look = (
  name: string,
  shown: string,
  red: number,
) => `def Material "${name}" (displayName = "${shown}") {
  token outputs:surface.connect = </Looks/${name}/s.outputs:surface>
  def Shader "s" { uniform token info:id = "UsdPreviewSurface"
    color3f inputs:diffuseColor = (${red}, 0.5, 0.5)
    token outputs:surface }
}`;

/** Three parts called Bolt, and one that is called as the second of them would be; materials likewise. */
const SCENE = `#usda 1.0
( metersPerUnit = 1 upAxis = "Y" )
def Scope "Looks" { ${look('a', 'Iron', 0.2)} ${look('b', 'Iron', 0.4)} ${look('c', 'Iron_2', 0.6)} }
def Xform "port" { ${prim('Bolt', 1, 'a')} }
def Xform "starboard" { ${prim('Bolt', 2, 'b')} }
${prim('Bolt_2', 3, 'c')}
def Xform "stern" { ${prim('Bolt', 4, 'a')} }
`;

describe('parts and materials that share a name', () => {
  it.each([
    ['web-gltf', 'glb'],
    ['compositor-usd', 'usda'],
    ['building-parts', 'obj'],
    ['engine-packed', 'fbx'],
  ])('do not take the name of another (%s)', async (id, variant) => {
    const { document, source, images, read } = await openAsset(
      memorySource('quay', { 'bolts.usda': new TextEncoder().encode(SCENE) }),
      'bolts.usda',
    );
    const destination = { ...(findDestination(id) as Destination), parts: 'kept' as const };
    const common = { document, source, state: initialState(source), edits: [], findings: [], images, read };
    const { files, receipt } = await handOff({
      ...common,
      destination,
      choices: { variant: variant as 'glb' },
    });
    const failed = receipt.readBack.checks.filter(({ ok }) => !ok);
    expect({ failed, open: receipt.differences.filter(({ exempt }) => exempt === null) }).toEqual({
      failed: [],
      open: [],
    });
    const found = await readModel(`bolts.${variant}`, memorySource('package', Object.fromEntries(files)));
    const widest = (name: string) => {
      const part = found.nodes.find((node) => node.mesh >= 0 && node.name === name);
      const { points } = found.meshes[part?.mesh ?? -1];
      return Math.max(...points) * found.metresPerUnit;
    };
    // OBJ states no unit; this destination's is the millimetre.
    expect(widest('Bolt_2')).toBeCloseTo(variant === 'obj' ? 3000 : 3, 4);
    const iron = found.materials.find(({ name }) => name === 'Iron_2')?.channels.baseColor?.value as number[];
    expect(iron[0]).toBeCloseTo(0.6, 2);
  });
});
