import { encodeImage } from '@kinkajou/core/images/encode';
import { createMesh, type PolygonMesh, type Vec3 } from '@kinkajou/core/scene/document';
import { createNoise, fractal, mix, smoothstep } from './noise.ts';
import { normalsFromHeight, type PaintedMaps, type Painter, paint, toPng } from './paint.ts';
import { steps } from './scale.ts';
import type { DemoParcel, DemoPart } from './scene.ts';
import { lathe, smoothProfile, tube } from './shapes.ts';
import { rope } from './surfaces.ts';
import { writeObjFile } from './writeObjFile.ts';

const SIZE = 1024;
/** Meshes of the net across its image. */
const MESHES = 5;

/** The cargo net of Harrow Quay, hung from a spar with pennants: cut-outs by alpha, as OBJ in metres. */
export async function ropeNet(): Promise<DemoParcel> {
  const net = paint(SIZE, netting(41));
  const cloth = paint(512, canvas(42));
  const spar = paint(512, wood(43));
  const folder = 'rope-net/';
  return {
    id: 'rope-net',
    title: 'Rope net',
    files: {
      [`${folder}net.obj`]: writeObjFile(netParts(), 'net.mtl', 'rope net of Harrow Quay'),
      [`${folder}net.mtl`]: new TextEncoder().encode(LIBRARY),
      [`${folder}maps/net_rope_basecolor.png`]: await withAlpha(net, ropeCover, true),
      [`${folder}maps/net_rope_normal.png`]: await toPng(normalsFromHeight(net, 6), 3),
      [`${folder}maps/net_rope_roughness.png`]: await toPng(net.roughness, 1),
      [`${folder}maps/net_pennant_basecolor.png`]: await withAlpha(cloth, pennantCover, false),
      [`${folder}maps/net_spar_basecolor.png`]: await toPng(spar.colour, 3),
      [`${folder}maps/net_spar_roughness.png`]: await toPng(spar.roughness, 1),
      [`${folder}maps/net_spar_height.png`]: await toPng(spar.height, 1),
    },
    faults: [
      { code: 'alpha.maskWouldDo', subject: 'Netting', why: 'blends although the rope has hard edges' },
      {
        code: 'alpha.premultiplied',
        subject: 'Netting',
        why: 'the colour was saved multiplied by its alpha',
      },
      { code: 'alpha.maskWouldDo', subject: 'Pennant', why: 'blends although the cloth has hard edges' },
      { code: 'alpha.fringe', subject: 'Pennant', why: 'white lies under the alpha' },
    ],
  };
}

const LIBRARY = `# rope net of Harrow Quay
newmtl Netting
Kd 1 1 1
map_Kd maps/net_rope_basecolor.png
map_d -imfchan m maps/net_rope_basecolor.png
norm maps/net_rope_normal.png
map_Pr maps/net_rope_roughness.png
Pr 1

newmtl Pennant
Kd 1 1 1
map_Kd maps/net_pennant_basecolor.png
map_d -imfchan m maps/net_pennant_basecolor.png
Pr 0.9

newmtl Spar
Kd 1 1 1
map_Kd maps/net_spar_basecolor.png
map_Pr maps/net_spar_roughness.png
disp -bm 0.004 maps/net_spar_height.png
Pr 1

newmtl Cork
Kd 0.55 0.36 0.2
Pr 0.85
`;

/**
 * Distance to the nearest strand of a slanted grid, 0 on the strand and 0.5 in the middle of a hole, and the
 * place along it.
 */
function strandAt(u: number, v: number): { across: number; along: number; knot: number } {
  const [a, b] = [(u + v) * MESHES, (u - v) * MESHES];
  const [da, db] = [Math.abs(a - Math.round(a)), Math.abs(b - Math.round(b))];
  return { across: Math.min(da, db), along: da < db ? b : a, knot: Math.hypot(da, db) };
}

const ROPE_HALF = 0.085;
const KNOT = 0.16;

/** 1 on rope, 0 in the holes, smooth over two texels. */
function ropeCover(u: number, v: number): number {
  const { across, knot } = strandAt(u, v);
  const edge = (MESHES / SIZE) * 1.4;
  return Math.max(
    smoothstep(ROPE_HALF + edge, ROPE_HALF - edge, across),
    smoothstep(KNOT + edge, KNOT - edge, knot),
  );
}

function netting(seed: number): Painter {
  const laid = rope(seed);
  return (u, v, out) => {
    const { across, along, knot } = strandAt(u, v);
    laid(along * 0.35, across / (2 * ROPE_HALF), out);
    const round = Math.sqrt(Math.max(0, 1 - (across / ROPE_HALF) ** 2));
    const swell = Math.sqrt(Math.max(0, 1 - (knot / KNOT) ** 2));
    const shade = 0.75 + 0.3 * Math.max(round, swell);
    out.r *= shade;
    out.g *= shade;
    out.b *= shade;
    out.height = 0.25 * out.height + 0.4 * round + 0.35 * swell;
  };
}

/** A triangle with its point down, hung by its upper edge. */
function pennantCover(u: number, v: number): number {
  const half = 0.46 * (v - 0.04);
  const edge = 1.4 / 512;
  return Math.min(
    smoothstep(half + edge, half - edge, Math.abs(u - 0.5)),
    smoothstep(0.985 + edge, 0.985 - edge, v),
  );
}

function canvas(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const weave = 0.5 + 0.25 * Math.sin(u * 640) + 0.25 * Math.sin(v * 640);
    const dirt = smoothstep(0, 0.7, fractal(noise, u, v, 5, 5, 5));
    const stripe = v > 0.55 && v < 0.75 ? 1 : 0;
    const shade = 0.85 + 0.12 * weave - 0.25 * dirt;
    out.r = mix(0.12, 0.8, stripe) * shade;
    out.g = mix(0.3, 0.68, stripe) * shade;
    out.b = mix(0.42, 0.36, stripe) * shade;
  };
}

/** Weathered spar: grain along v, cracks, grey where the sun bleached it. */
function wood(seed: number): Painter {
  const noise = createNoise(seed);
  return (u, v, out) => {
    const grain = fractal(noise, u, v, 2, 48, 4);
    const grey = smoothstep(-0.2, 0.5, fractal(noise, u + 0.4, v, 4, 6, 4));
    const crack = smoothstep(0.42, 0.55, fractal(noise, u, v + 0.3, 3, 36, 3));
    const shade = (1 + 0.18 * grain) * (1 - 0.6 * crack);
    out.r = mix(0.5, 0.52, grey) * shade;
    out.g = mix(0.34, 0.48, grey) * shade;
    out.b = mix(0.2, 0.43, grey) * shade;
    out.metalness = 0;
    out.roughness = 0.72 + 0.2 * grey + 0.05 * grain;
    out.height = 0.6 + 0.2 * grain - 0.5 * crack;
  };
}

/** Colour with alpha; multiplied by it, or with white under the clear parts. */
async function withAlpha(
  { size, colour }: PaintedMaps,
  cover: (u: number, v: number) => number,
  premultiplied: boolean,
): Promise<Uint8Array> {
  const data = new Uint8Array(size * size * 4);
  for (let y = 0, i = 0; y < size; y += 1) {
    for (let x = 0; x < size; x += 1, i += 1) {
      const alpha = cover((x + 0.5) / size, 1 - (y + 0.5) / size);
      for (let k = 0; k < 3; k += 1) {
        const value = Math.min(1, Math.max(0, colour[i * 3 + k]));
        data[i * 4 + k] = Math.round(255 * matted(premultiplied, value, alpha));
      }
      data[i * 4 + 3] = Math.round(alpha * 255);
    }
  }
  return encodeImage({ width: size, height: size, components: 4, data }, 'png');
}

function matted(premultiplied: boolean, value: number, alpha: number) {
  if (premultiplied) return value * alpha;
  return alpha > 0.999 ? value : mix(1, value, alpha);
}

/** A sheet over a function of u (left to right) and v (top to bottom), with normals by differences. */
export function sheet(
  name: string,
  wholeColumns: number,
  wholeRows: number,
  at: (u: number, v: number) => Vec3,
  uvScale: [number, number] = [1, 1],
): PolygonMesh {
  const [columns, rows] = [steps(wholeColumns), steps(wholeRows)];
  const points: number[] = [];
  const normals: number[] = [];
  const uvs: number[] = [];
  for (let row = 0; row <= rows; row += 1) {
    for (let column = 0; column <= columns; column += 1) {
      const [u, v] = [column / columns, row / rows];
      points.push(...at(u, v));
      const [a, b, c, d] = [at(u + 1e-3, v), at(u - 1e-3, v), at(u, v + 1e-3), at(u, v - 1e-3)];
      const [ux, uy, uz] = [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
      const [vx, vy, vz] = [c[0] - d[0], c[1] - d[1], c[2] - d[2]];
      const n = [vy * uz - vz * uy, vz * ux - vx * uz, vx * uy - vy * ux];
      const length = Math.hypot(...n) || 1;
      normals.push(...n.map((value) => value / length));
      uvs.push(u * uvScale[0], (1 - v) * uvScale[1]);
    }
  }
  const corners: number[] = [];
  const width = columns + 1;
  for (let row = 0; row < rows; row += 1)
    for (let column = 0; column < columns; column += 1) {
      const first = row * width + column;
      corners.push(first, first + width, first + width + 1, first + 1);
    }
  const index = Uint32Array.from(corners);
  return createMesh(name, {
    points: Float64Array.from(points),
    faceCounts: new Uint32Array(columns * rows).fill(4),
    faceCorners: index,
    normals: {
      name: 'normal',
      size: 3,
      domain: 'corner',
      values: Float64Array.from(normals),
      index: index.slice(),
    },
    uvSets: [
      { name: 'map1', size: 2, domain: 'corner', values: Float64Array.from(uvs), index: index.slice() },
    ],
  });
}

const TOP = 2.1;
const WIDTH = 2.4;

function netParts(): DemoPart[] {
  const hang = (u: number, v: number): Vec3 => [
    (u - 0.5) * WIDTH * (1 - 0.06 * v),
    TOP - v * 1.75 - 0.1 * Math.sin(u * Math.PI) * v,
    0.16 * Math.sin(v * Math.PI * 0.9) + 0.05 * Math.sin(u * 9) * v + 0.06 * v * v,
  ];
  const parts: DemoPart[] = [
    { name: 'Net', material: 'Netting', mesh: sheet('Net', 64, 48, hang, [2.4, 1.75]) },
    {
      name: 'Spar',
      material: 'Spar',
      mesh: tube(
        'Spar',
        Array.from({ length: 41 }, (_, i): Vec3 => [-1.5 + i * 0.075, TOP + 0.045, 0]),
        0.045,
        { segments: 28, lengthU: 0.6 },
      ),
    },
  ];
  for (let i = 0; i < 5; i += 1) {
    const left = -0.95 + i * 0.41;
    const swing = (u: number, v: number): Vec3 => [
      left + u * 0.26,
      TOP - 0.02 - v * 0.34,
      0.07 + 0.025 * Math.sin(u * 4 + i) * v + 0.03 * v,
    ];
    parts.push({
      name: `Pennant_${i + 1}`,
      material: 'Pennant',
      mesh: sheet(`Pennant_${i + 1}`, 8, 10, swing),
    });
  }
  const float = smoothProfile(
    [
      [0.012, -0.06],
      [0.05, -0.045],
      [0.062, 0],
      [0.05, 0.045],
      [0.012, 0.06],
    ],
    5,
  );
  for (let i = 0; i < 7; i += 1) {
    const u = (i + 0.5) / 7;
    const [x, y, z] = hang(u, 1);
    parts.push({
      name: `Cork_${i + 1}`,
      material: 'Cork',
      mesh: shifted(lathe(`Cork_${i + 1}`, [float], { segments: 24 }), [x, y - 0.03, z]),
    });
  }
  return parts;
}

function shifted(mesh: PolygonMesh, [x, y, z]: Vec3): PolygonMesh {
  return { ...mesh, points: mesh.points.map((value, i) => value + [x, y, z][i % 3]) };
}
