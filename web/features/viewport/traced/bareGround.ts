import { DataUtils, DirectionalLight, HalfFloatType, type Scene, type Texture, Vector3 } from 'three';

const brightness = (r: number, g: number, b: number) => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/**
 * How bright level white ground is on which nothing stands: what reaches it from the sky and the lamps, over
 * pi.
 */
export function bareGround(scene: Scene): number {
  const sky = scene.environment ? skyOver(scene.environment) * scene.environmentIntensity : 0;
  const lamps = scene.children.map((lamp) => (lamp instanceof DirectionalLight ? lampOver(lamp) : 0));
  return (sky + lamps.reduce((sum, one) => sum + one, 0)) / Math.PI;
}

/** Light of the upper half of a sky, each direction by the cosine of its height. */
function skyOver({ image, type, flipY }: Texture): number {
  const { width, height, data } = image as { width: number; height: number; data: ArrayLike<number> };
  const numberOf =
    type === HalfFloatType ? (i: number) => DataUtils.fromHalfFloat(data[i]) : (i: number) => data[i];
  const components = data.length / (width * height);
  let sum = 0;
  for (let row = 0; row < height; row += 1) {
    const fromZenith = (((flipY ? row : height - 1 - row) + 0.5) / height) * Math.PI;
    if (fromZenith >= Math.PI / 2) continue;
    let light = 0;
    for (let x = 0; x < width; x += 1) {
      const i = (row * width + x) * components;
      light += brightness(numberOf(i), numberOf(i + 1), numberOf(i + 2));
    }
    sum += light * Math.cos(fromZenith) * Math.sin(fromZenith);
  }
  return sum * (Math.PI / height) * ((2 * Math.PI) / width);
}

function lampOver(lamp: DirectionalLight): number {
  const place = new Vector3().setFromMatrixPosition(lamp.matrixWorld);
  const target = new Vector3().setFromMatrixPosition(lamp.target.matrixWorld);
  const { r, g, b } = lamp.color;
  return Math.max(0, place.sub(target).normalize().y) * lamp.intensity * brightness(r, g, b);
}
