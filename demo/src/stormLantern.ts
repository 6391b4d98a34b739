import type { PolygonMesh, Vec3 } from '@kinkajou/core/scene/document';
import { inverted, normalsFromHeight, paint, toPng } from './paint.ts';
import type { DemoParcel, DemoPart } from './scene.ts';
import { circlePath, lathe, type Profile, smoothProfile, tube } from './shapes.ts';
import { brass, flame, iron } from './surfaces.ts';
import { writeObjFile } from './writeObjFile.ts';

const SIZE = 1024;
const GLOBE: Profile = [
  [0.036, 0.088],
  [0.049, 0.112],
  [0.054, 0.14],
  [0.047, 0.175],
  [0.034, 0.205],
];
/** The folder on the machine it was exported from. */
const FOREIGN = 'C:\\Users\\marit\\Harbour\\lantern\\textures\\';

/** The storm lantern of Harrow Quay: brass, glass and flame, 0.36 m high, as OBJ with MTL in metres. */
export async function stormLantern(): Promise<DemoParcel> {
  const brassMaps = paint(SIZE, brass(11));
  const ironMaps = paint(SIZE, iron(12));
  const flameMaps = paint(SIZE, flame(13));
  const textures = 'storm-lantern/textures/';
  return {
    id: 'storm-lantern',
    title: 'Storm lantern',
    files: {
      'storm-lantern/lantern.obj': writeObjFile(
        lanternParts(),
        'lantern.mtl',
        'storm lantern of Harrow Quay',
      ),
      'storm-lantern/lantern.mtl': new TextEncoder().encode(lanternLibrary()),
      [`${textures}lantern_brass_basecolor.png`]: await toPng(brassMaps.colour, 3),
      [`${textures}lantern_brass_glossiness.png`]: await toPng(inverted(brassMaps.roughness), 1),
      [`${textures}lantern_brass_metalness.png`]: await toPng(brassMaps.metalness, 1),
      [`${textures}lantern_brass_ao.png`]: await toPng(brassMaps.occlusion, 1),
      [`${textures}lantern_brass_normal.png`]: await toPng(normalsFromHeight(brassMaps, 9), 3),
      [`${textures}lantern_iron_basecolor.png`]: await toPng(ironMaps.colour, 3),
      [`${textures}lantern_flame_emission.png`]: await toPng(flameMaps.colour, 3),
    },
    faults: [
      {
        code: 'link.outside',
        subject: 'lantern_brass_basecolor.tif',
        why: 'foreign absolute path, and the image is a PNG',
      },
      {
        code: 'link.missing',
        subject: 'lantern_brass_roughness.png',
        why: 'not delivered; glossiness lies beside',
      },
      { code: 'link.outside', subject: 'lantern_brass_metalness.png', why: 'foreign absolute path' },
      { code: 'link.outside', subject: 'lantern_brass_normal.png', why: 'foreign absolute path' },
      { code: 'link.outside', subject: 'lantern_iron_basecolor.png', why: 'foreign absolute path' },
      { code: 'link.outside', subject: 'lantern_flame_emission.png', why: 'foreign absolute path' },
      { code: 'slot.candidate', subject: 'Brass', why: 'occlusion was delivered but never wired' },
      { code: 'alpha.invisible', subject: 'Brass', why: 'Tr written as opacity' },
      {
        code: 'surface.metalHalf',
        subject: 'Iron',
        why: 'metalness 0.8 stands for the rust that a map should hold',
      },
      { code: 'read.opacityContradiction', subject: 'Glass', why: 'd and Tr are both 0.22' },
    ],
  };
}

function lanternParts(): DemoPart[] {
  const part = (name: string, material: string, mesh: PolygonMesh): DemoPart => ({ name, material, mesh });
  const turned = { repeatU: 3, lengthV: 0.14 };
  const parts = [
    part('Tank', 'Brass', lathe('Tank', tankProfile(), turned)),
    part(
      'Burner',
      'Brass',
      lathe(
        'Burner',
        [
          smoothProfile(
            [
              [0.02, 0.088],
              [0.017, 0.097],
              [0.007, 0.104],
            ],
            4,
          ),
          [
            [0.007, 0.104],
            [0, 0.104],
          ],
        ],
        { ...turned, segments: 32 },
      ),
    ),
    part('Cap', 'Brass', lathe('Cap', capProfile(), turned)),
    part('Globe', 'Glass', lathe('Globe', [smoothProfile(GLOBE, 8)], { segments: 72 })),
    part(
      'Flame',
      'Flame',
      lathe(
        'Flame',
        [
          smoothProfile(
            [
              [0, 0.102],
              [0.007, 0.108],
              [0.0105, 0.118],
              [0.0075, 0.135],
              [0.003, 0.15],
              [0, 0.16],
            ],
            6,
          ),
        ],
        { segments: 24 },
      ),
    ),
    part('Handle', 'Iron', tube('Handle', handlePath(), 0.0022, { segments: 10, lengthU: 0.06 })),
  ];
  for (const side of [-1, 1]) {
    const name = side < 0 ? 'Left_tube' : 'Right_tube';
    parts.push(part(name, 'Brass', tube(name, sidePath(side), 0.0062, { segments: 20, lengthU: 0.06 })));
  }
  [0.113, 0.17].forEach((height, i) =>
    parts.push(
      part(
        `Guard_ring_${i + 1}`,
        'Iron',
        tube(`Guard_ring_${i + 1}`, circlePath(i === 0 ? 0.0535 : 0.0525, height, 64), 0.0014, {
          segments: 8,
          closed: true,
          lengthU: 0.05,
        }),
      ),
    ),
  );
  for (let i = 0; i < 4; i += 1)
    parts.push(
      part(
        `Guard_bar_${i + 1}`,
        'Iron',
        tube(`Guard_bar_${i + 1}`, guardPath(((i + 0.5) * Math.PI) / 2), 0.0013, {
          segments: 8,
          lengthU: 0.05,
        }),
      ),
    );
  return parts;
}

function tankProfile(): Profile[] {
  return [
    [
      [0, 0],
      [0.062, 0],
    ],
    [
      [0.062, 0],
      [0.066, 0.003],
      [0.066, 0.009],
    ],
    [
      [0.066, 0.009],
      [0.0635, 0.012],
    ],
    smoothProfile(
      [
        [0.0635, 0.012],
        [0.068, 0.026],
        [0.0685, 0.042],
        [0.058, 0.058],
        [0.036, 0.066],
      ],
      7,
    ),
    [
      [0.036, 0.066],
      [0.034, 0.076],
    ],
    [
      [0.034, 0.076],
      [0.047, 0.08],
    ],
    [
      [0.047, 0.08],
      [0.0475, 0.083],
      [0.0475, 0.09],
    ],
    [
      [0.0475, 0.09],
      [0.044, 0.09],
    ],
    [
      [0.044, 0.09],
      [0.043, 0.087],
    ],
    [
      [0.043, 0.087],
      [0, 0.087],
    ],
  ];
}

function capProfile(): Profile[] {
  return [
    [
      [0, 0.204],
      [0.043, 0.204],
    ],
    [
      [0.043, 0.204],
      [0.0445, 0.206],
      [0.0445, 0.213],
    ],
    smoothProfile(
      [
        [0.0445, 0.213],
        [0.035, 0.219],
        [0.03, 0.228],
        [0.029, 0.24],
      ],
      5,
    ),
    [
      [0.029, 0.24],
      [0.043, 0.2425],
    ],
    [
      [0.043, 0.2425],
      [0.044, 0.245],
      [0.043, 0.2475],
    ],
    smoothProfile(
      [
        [0.043, 0.2475],
        [0.036, 0.258],
        [0.02, 0.268],
        [0.008, 0.2715],
      ],
      6,
    ),
    smoothProfile(
      [
        [0.008, 0.2715],
        [0.0085, 0.277],
        [0.005, 0.281],
        [0, 0.282],
      ],
      4,
    ),
  ];
}

function curve(points: Vec3[], steps: number): Vec3[] {
  const across = smoothProfile(
    points.map(([x, y]) => [x + 1, y]),
    steps,
  );
  return across.map(([x, y]) => [x - 1, y, 0]);
}

function sidePath(side: number): Vec3[] {
  return curve(
    [
      [0.06, 0.04, 0],
      [0.082, 0.05, 0],
      [0.089, 0.075, 0],
      [0.089, 0.15, 0],
      [0.087, 0.205, 0],
      [0.066, 0.229, 0],
      [0.026, 0.232, 0],
    ],
    8,
  ).map(([x, y, z]) => [x * side, y, z]);
}

function handlePath(): Vec3[] {
  return Array.from({ length: 41 }, (_, i) => {
    const angle = (i / 40) * Math.PI;
    return [Math.cos(angle) * 0.095, 0.19 + Math.sin(angle) * 0.165, 0.004 * Math.sin(angle)] as Vec3;
  });
}

function guardPath(angle: number): Vec3[] {
  return smoothProfile(GLOBE, 6).map(
    ([radius, height]) =>
      [(radius + 0.004) * Math.sin(angle), height, (radius + 0.004) * Math.cos(angle)] as Vec3,
  );
}

function lanternLibrary(): string {
  return `# storm lantern of Harrow Quay
newmtl Brass
Kd 1.0 1.0 1.0
Tr 1.0
Pr 1.0
Pm 1.0
map_Kd ${FOREIGN}lantern_brass_basecolor.tif
map_Pr ${FOREIGN}lantern_brass_roughness.png
map_Pm ${FOREIGN}lantern_brass_metalness.png
norm ${FOREIGN}lantern_brass_normal.png

newmtl Glass
Kd 0.94 0.98 0.96
d 0.22
Tr 0.22
Ni 1.5
Pr 0.04
Pm 0.0

newmtl Flame
Kd 0.0 0.0 0.0
Ke 2.2 2.2 2.2
Pr 1.0
map_Ke ${FOREIGN}lantern_flame_emission.png

newmtl Iron
Kd 1.0 1.0 1.0
Pr 0.55
Pm 0.8
map_Kd ${FOREIGN}lantern_iron_basecolor.png
`;
}
