import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';
import { normalsFromHeight, type PaintedMaps, packPlanes, paint, toPng } from './paint.ts';
import type { DemoParcel, DemoPart } from './scene.ts';
import { circlePath, lathe, type Profile, smoothProfile, tube } from './shapes.ts';
import { brass, buoyPaint, rope, rubber } from './surfaces.ts';
import { type FbxMaterialSpec, type FbxTexture, writeFbxFile } from './writeFbxFile.ts';

const SIZE = 1024;
const HULL_SIZE = 1024;
const TOWER = { foot: [37, 86], top: [22, 216] } as const;

/** The channel buoy of Harrow Quay: painted steel with rust, 2.8 m high, as binary FBX in centimetres. */
export async function channelBuoy(): Promise<DemoParcel> {
  const hull = paint(HULL_SIZE, buoyPaint(21));
  const ropeMaps = paint(SIZE, rope(22));
  const brassMaps = paint(SIZE, brass(23));
  const rubberMaps = paint(SIZE, rubber(24));
  const orm = (maps: PaintedMaps) => toPng(packPlanes(maps.occlusion, maps.roughness, maps.metalness), 3);
  const normal = (maps: PaintedMaps, strength: number) => toPng(normalsFromHeight(maps, strength), 3);
  return {
    id: 'channel-buoy',
    title: 'Channel buoy',
    files: {
      'buoy/buoy_v007.fbx': writeFbxFile(buoyParts(), buoyMaterials(), 'Harrow Quay drawing office'),
      'buoy/maps/buoy_hull_basecolor_v002.png': await toPng(hull.colour, 3),
      'buoy/maps/buoy_hull_normal.png': await normal(hull, 9),
      'buoy/maps/buoy_hull_orm.png': await orm(hull),
      'buoy/old/buoy_rope_basecolor.png': await toPng(ropeMaps.colour, 3),
      'buoy/maps/buoy_rope_normal.png': await normal(ropeMaps, 14),
      'buoy/maps/buoy_rail_basecolor.png': await toPng(brassMaps.colour, 3),
      'buoy/maps/buoy_rail_orm.png': await orm(brassMaps),
      'buoy/maps/buoy_fender_basecolor.png': await toPng(rubberMaps.colour, 3),
    },
    faults: [
      { code: 'surface.legacyOnly', subject: 'buoy_v007', why: 'classic gloss and no roughness' },
      { code: 'link.missing', subject: 'buoy_hull_basecolor.png', why: 'renamed with a version' },
      { code: 'link.outside', subject: 'buoy_rope_basecolor.png', why: 'lies in a wrong folder' },
      {
        code: 'slot.candidate',
        subject: 'Hull paint',
        why: 'packed occlusion, roughness, metalness never wired',
      },
      { code: 'glass.opaque', subject: 'Lamp glass', why: 'the format has no word for transmission' },
      { code: 'slot.packedWhole', subject: 'Rail brass', why: 'packed image read whole as specular' },
    ],
  };
}

function buoyParts(): DemoPart[] {
  const hull = lathe('Hull', hullProfile(), { segments: 96, repeatU: 1 });
  const parts: DemoPart[] = [
    { name: 'Hull', material: 'Hull paint', mesh: hull },
    part(
      'Fender',
      'Fender rubber',
      tube('Fender', circlePath(55, 0, 96), 5.5, { segments: 20, closed: true, lengthU: 60 }),
      [0, 54, 0],
    ),
    part(
      'Platform',
      'Rail brass',
      lathe('Platform', platformProfile(), { segments: 64, repeatU: 2, lengthV: 60 }),
      [0, 216, 0],
    ),
    part(
      'Lamp',
      'Lamp glass',
      lathe(
        'Lamp',
        [
          [
            [0, 0],
            [10, 0],
          ],
          smoothProfile(
            [
              [10, 0],
              [12, 6],
              [12, 24],
              [10, 31],
            ],
            6,
          ),
          [
            [10, 31],
            [0, 31],
          ],
        ],
        { segments: 48 },
      ),
      [0, 223, 0],
    ),
    part(
      'Roof',
      'Rail brass',
      lathe('Roof', roofProfile(), { segments: 64, repeatU: 2, lengthV: 60 }),
      [0, 255, 0],
    ),
    part(
      'Cage_ring',
      'Rail brass',
      tube('Cage_ring', circlePath(17, 0, 64), 0.8, { segments: 10, closed: true, lengthU: 20 }),
      [0, 239, 0],
    ),
  ];
  for (let i = 0; i < 6; i += 1) {
    const angle = (i / 6) * Math.PI * 2;
    const at: Vec3 = [17 * Math.sin(angle), 223, 17 * Math.cos(angle)];
    parts.push(
      part(
        `Cage_post_${i + 1}`,
        'Rail brass',
        tube(
          `Cage_post_${i + 1}`,
          [
            [0, 0, 0],
            [0, 16, 0],
            [0, 33, 0],
          ],
          1.1,
          { segments: 12, lengthU: 20 },
        ),
        at,
      ),
    );
  }
  for (let i = 0; i < 5; i += 1) {
    const height = 132 + i * 4.1;
    const radius = towerRadius(height) + 1.4;
    parts.push(
      part(
        `Rope_turn_${i + 1}`,
        'Rope band',
        tube(`Rope_turn_${i + 1}`, circlePath(radius, 0, 96), 2.2, {
          segments: 16,
          closed: true,
          lengthU: 40,
        }),
        [0, height, 0],
      ),
    );
  }
  for (const side of [-1, 1]) {
    const name = side < 0 ? 'Lifting_eye_left' : 'Lifting_eye_right';
    const eye = tube(name, standingRing(7.5, 40), 1.7, { segments: 14, closed: true, lengthU: 20 });
    parts.push({ ...part(name, 'Fender rubber', eye, [side * 45, 80, 0]), rotation: [0, 0, side * -28] });
  }
  return parts;
}

function part(name: string, material: string, mesh: PolygonMesh, translation: Vec3): DemoPart {
  return { name, material, mesh, translation, parent: 'Hull' };
}

function towerRadius(height: number): number {
  const t = (height - TOWER.foot[1]) / (TOWER.top[1] - TOWER.foot[1]);
  return TOWER.foot[0] + (TOWER.top[0] - TOWER.foot[0]) * t;
}

function hullProfile(): Profile[] {
  const tower: Profile = Array.from({ length: 15 }, (_, i) => {
    const height = TOWER.foot[1] + ((TOWER.top[1] - TOWER.foot[1]) * i) / 14;
    return [towerRadius(height), height];
  });
  return [
    [
      [0, 0],
      [16, 0],
    ],
    smoothProfile(
      [
        [16, 0],
        [38, 10],
        [50, 26],
        [54, 44],
      ],
      6,
    ),
    [
      [54, 44],
      [54, 62],
    ],
    smoothProfile(
      [
        [54, 62],
        [52, 68],
        [45, 75],
        [38, 80],
        [37, 86],
      ],
      6,
    ),
    tower,
  ];
}

function platformProfile(): Profile[] {
  return [
    [
      [0, 0],
      [20, 0],
    ],
    smoothProfile(
      [
        [20, 0],
        [23, 0.5],
        [25, 3],
      ],
      4,
    ),
    [
      [25, 3],
      [25, 6.5],
    ],
    [
      [25, 6.5],
      [0, 6.5],
    ],
  ];
}

function roofProfile(): Profile[] {
  return [
    [
      [0, 0],
      [22, 0],
    ],
    [
      [22, 0],
      [22.6, 1],
      [22.6, 3],
    ],
    smoothProfile(
      [
        [22.6, 3],
        [16, 9],
        [7, 15],
        [3, 17],
      ],
      6,
    ),
    smoothProfile(
      [
        [3, 17],
        [4.2, 19.5],
        [3.2, 22],
        [0, 23],
      ],
      5,
    ),
  ];
}

function standingRing(radius: number, count: number): Vec3[] {
  return Array.from({ length: count }, (_, i) => {
    const angle = (i / count) * Math.PI * 2;
    return [radius * Math.cos(angle), radius * Math.sin(angle), 0] as Vec3;
  });
}

function buoyMaterials(): FbxMaterialSpec[] {
  const texture = (property: string, name: string): FbxTexture => ({
    property,
    fileName: `D:\\quay\\art\\buoy\\maps\\${name}`,
    relativeFileName: `maps\\${name}`,
  });
  const white: Vec3 = [1, 1, 1];
  return [
    {
      name: 'Hull paint',
      diffuse: white,
      specular: [0.2, 0.2, 0.2],
      exponent: 24,
      textures: [
        texture('DiffuseColor', 'buoy_hull_basecolor.png'),
        texture('NormalMap', 'buoy_hull_normal.png'),
      ],
    },
    {
      name: 'Rail brass',
      diffuse: white,
      specular: [0.8, 0.7, 0.4],
      exponent: 40,
      textures: [
        texture('DiffuseColor', 'buoy_rail_basecolor.png'),
        texture('SpecularFactor', 'buoy_rail_orm.png'),
      ],
    },
    {
      name: 'Rope band',
      diffuse: white,
      specular: [0.05, 0.05, 0.05],
      exponent: 4,
      textures: [
        texture('DiffuseColor', 'buoy_rope_basecolor.png'),
        texture('NormalMap', 'buoy_rope_normal.png'),
      ],
    },
    {
      name: 'Fender rubber',
      diffuse: white,
      specular: [0.1, 0.1, 0.1],
      exponent: 8,
      textures: [texture('DiffuseColor', 'buoy_fender_basecolor.png')],
    },
    {
      name: 'Lamp glass',
      diffuse: [1, 0.89, 0.68],
      specular: [0.5, 0.5, 0.5],
      exponent: 400,
      emissive: [0.9, 0.62, 0.28],
      textures: [],
    },
  ];
}
