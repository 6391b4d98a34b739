import sharp from 'sharp';

/** One colour as a small PNG. */
export async function plain(r: number, g: number, b: number): Promise<Uint8Array> {
  return new Uint8Array(
    await sharp({ create: { width: 8, height: 8, channels: 3, background: { r, g, b } } })
      .png()
      .toBuffer(),
  );
}

const POINTS = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\n';

/** A square of two materials and their images; `wide` is how wide it is. */
export async function quay({
  wide = 1,
  tint = '1 1 1',
  missing = false,
} = {}): Promise<Record<string, Uint8Array | string>> {
  return {
    'quay.obj': `mtllib quay.mtl\no Wall\n${POINTS.replaceAll('v 1 ', `v ${wide} `)}usemtl Stone\nf 1/1 2/2 3/3 4/4\no Rail\nv 0 2 0\nv 1 2 0\nv 1 3 0\nusemtl Brass\nf 5/1 6/2 7/3\n`,
    'quay.mtl': `newmtl Stone\nKd ${tint}\nmap_Kd stone_basecolor.png\nmap_Pr stone_roughness.png\nPm 0\nnewmtl Brass\nKd 0.9 0.8 0.4\nPr 0.3\nPm 1\n`,
    'stone_basecolor.png': await plain(120, 110, 100),
    ...(missing ? {} : { 'stone_roughness.png': await plain(180, 180, 180) }),
  };
}
