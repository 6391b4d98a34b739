import { describe, expect, it } from 'vitest';
import { identityTransform } from '../../scene/document.ts';
import { localMatrix, transformPoint, worldMatrices } from '../../scene/matrix.ts';
import { CUBIC, createCurve, evaluate, joinCurves } from './curves.ts';
import { readFbx } from './readFbx.ts';

/**
 * A 6.1 file as programs of its time wrote it: properties with three leading words, textures on models,
 * takes.
 */
const OLD = `; FBX 6.1.0 project file
FBXHeaderExtension:  {
    FBXHeaderVersion: 1003
    FBXVersion: 6100
    Creator: "Harrow Quay drawing office"
}
Objects:  {
    Model: "Model::Crate", "Mesh" {
        Version: 232
        Properties60:  {
            Property: "Lcl Translation", "Lcl Translation", "A+",1,2,3
            Property: "Lcl Rotation", "Lcl Rotation", "A+",0,0,90
            Property: "Lcl Scaling", "Lcl Scaling", "A+",1,1,1
            Property: "tonnage", "double", "AU",12.5
        }
        Vertices: 0,0,0,1,0,0,1,1,0,0,1,0,0,0,1
        PolygonVertexIndex: 0,1,2,-4,0,1,-5
        LayerElementUV: 0 {
            MappingInformationType: "ByPolygonVertex"
            ReferenceInformationType: "IndexToDirect"
            UV: 0,0,1,0,1,1,0,1
            UVIndex: 0,1,2,3,0,1,2
        }
        LayerElementMaterial: 0 {
            MappingInformationType: "ByPolygon"
            ReferenceInformationType: "IndexToDirect"
            Materials: 0,1
        }
        LayerElementTexture: 0 {
            MappingInformationType: "ByPolygon"
            ReferenceInformationType: "IndexToDirect"
            TextureAlpha: 1
            TextureId: 0,1
        }
    }
    Material: "Material::Plank", "" {
        ShadingModel: "phong"
        Properties60:  {
            Property: "DiffuseColor", "ColorRGB", "",0.5,0.25,0.125
            Property: "ShininessExponent", "double", "",20
        }
    }
    Material: "Material::Rope", "" {
        ShadingModel: "lambert"
        Properties60:  {
        }
    }
    Texture: "Texture::planks", "" {
        FileName: "C:\\art\\planks.png"
        RelativeFilename: "planks.png"
    }
    Texture: "Texture::rope", "" {
        FileName: "C:\\art\\rope.png"
        RelativeFilename: "rope.png"
    }
    GlobalSettings:  {
        Properties60:  {
            Property: "UpAxis", "int", "",2
            Property: "UpAxisSign", "int", "",1
            Property: "FrontAxis", "int", "",1
            Property: "FrontAxisSign", "int", "",-1
            Property: "CoordAxis", "int", "",0
            Property: "CoordAxisSign", "int", "",1
            Property: "UnitScaleFactor", "double", "",100
        }
    }
}
Connections:  {
    Connect: "OO", "Model::Crate", "Model::Scene"
    Connect: "OO", "Material::Plank", "Model::Crate"
    Connect: "OO", "Material::Rope", "Model::Crate"
    Connect: "OO", "Texture::planks", "Model::Crate"
    Connect: "OO", "Texture::rope", "Model::Crate"
}
Takes:  {
    Current: "Swing"
    Take: "Swing" {
        Model: "Model::Crate" {
            Channel: "Transform" {
                Channel: "R" {
                    Channel: "X" {
                        KeyVer: 4005
                        KeyCount: 2
                        Key: 0,0,L,46186158000,30,L
                    }
                    Channel: "Z" {
                        KeyVer: 4005
                        KeyCount: 2
                        Key: 0,90,C,s,92372316000,45,L
                    }
                }
            }
        }
    }
}
`;

describe('FBX 6.1 as text', () => {
  const document = readFbx(new TextEncoder().encode(OLD), 'old.fbx');

  it('reads mesh, unit, axes and custom properties', () => {
    expect(document.variant).toBe('text 6100');
    expect([...document.meshes[0].faceCounts]).toEqual([4, 3]);
    expect(document.metresPerUnit).toBe(1);
    expect(document.axes.up).toEqual({ axis: 2, sign: 1 });
    expect(document.nodes[0].custom).toEqual({ tonnage: 12.5 });
    expect(
      transformPoint(worldMatrices(document.nodes)[0], 1, 0, 0).map((value) => Number(value.toFixed(9))),
    ).toEqual([1, 3, 3]);
  });

  it('gives each material the texture of its faces', () => {
    expect(
      document.materials.map((material) => [material.name, material.channels.baseColor?.map?.image]),
    ).toEqual([
      ['Plank', 'C:\\art\\planks.png'],
      ['Rope', 'C:\\art\\rope.png'],
    ]);
    expect(document.materials[0]).toMatchObject({
      exponent: 20,
      channels: { baseColor: { value: [0.5, 0.25, 0.125] } },
    });
  });

  it('reads takes: components with keys of their own joined, the others at rest', () => {
    const [clip] = document.clips;
    expect([clip.name, clip.start, clip.end]).toEqual(['Swing', 0, 2]);
    const [track] = clip.tracks;
    expect(track).toMatchObject({ node: 0, path: 'rotation', interpolation: 'linear' });
    const entryAt = (time: number) => {
      const i = [...track.times].findIndex((other) => Math.abs(other - time) < 1e-6);
      return [...track.values.slice(i * 3, i * 3 + 3)];
    };
    expect(entryAt(0)).toEqual([0, 0, 90]);
    // One second in, X has arrived and Z still holds its first key.
    expect(entryAt(1)).toEqual([30, 0, 90]);
    expect(entryAt(2)).toEqual([30, 0, 45]);
  });
});

describe('curves', () => {
  it('evaluates cubic spans by Hermite', () => {
    const curve = createCurve(Float64Array.of(0, 2), Float64Array.of(0, 8));
    curve.kinds.fill(CUBIC);
    curve.out[0] = 0;
    curve.into[0] = 0;
    // Flat at both ends: half way it is half way, a quarter of the way 3/16 - 2/64 of it.
    expect(evaluate(curve, 1)).toBeCloseTo(4, 12);
    expect(evaluate(curve, 0.5)).toBeCloseTo(8 * (3 / 16 - 2 / 64), 12);
    const joined = joinCurves([curve, null, curve], [7, 7, 7]);
    expect(joined.interpolation).toBe('cubic');
    expect([...joined.values.slice(3, 6)]).toEqual([0, 7, 0]);
  });
});

describe('transforms with pivots', () => {
  it('turn about the rotation pivot and scale about the scaling pivot', () => {
    const parts = {
      ...identityTransform(),
      rotation: [0, 0, 90] as [number, number, number],
      rotationPivot: [1, 0, 0] as [number, number, number],
    };
    expect(transformPoint(localMatrix(parts), 2, 0, 0).map((value) => Number(value.toFixed(12)))).toEqual([
      1, 1, 0,
    ]);
    const scaled = {
      ...identityTransform(),
      scale: [3, 3, 3] as [number, number, number],
      scalingPivot: [1, 1, 1] as [number, number, number],
    };
    expect(transformPoint(localMatrix(scaled), 2, 1, 1)).toEqual([4, 1, 1]);
  });

  it('apply pre-rotation before and the inverse of post-rotation after the own', () => {
    const parts = {
      ...identityTransform(),
      preRotation: [0, 0, 90] as [number, number, number],
      postRotation: [0, 90, 0] as [number, number, number],
    };
    // Inverse of +90 about Y takes z to -x; then +90 about Z takes -x to -y.
    transformPoint(localMatrix(parts), 0, 0, 1).forEach((value, i) =>
      expect(value).toBeCloseTo([0, -1, 0][i], 12),
    );
  });
});
