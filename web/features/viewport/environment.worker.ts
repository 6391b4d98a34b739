import { drawEnvironment, type EnvironmentKey, meanRadiance } from '@kinkajou/core/maps/environments';
import { numberToHalf } from '@kinkajou/core/scene/half';

/** A computed environment as a texture takes it: halves with four components, rows from the nadir. */
export interface DrawnEnvironment {
  texels: Uint16Array<ArrayBuffer>;
  width: number;
  height: number;
  mean: number;
}

/** Draws an environment away from the page: half a million directions take a fifth of a second. */
self.onmessage = ({ data: key }: MessageEvent<EnvironmentKey>) => {
  const { data, width, height } = drawEnvironment(key);
  const texels = new Uint16Array(width * height * 4).fill(numberToHalf(1));
  for (let y = 0; y < height; y += 1) {
    for (let x = 0; x < width; x += 1) {
      const [from, to] = [(y * width + x) * 3, ((height - 1 - y) * width + x) * 4];
      for (let component = 0; component < 3; component += 1)
        texels[to + component] = numberToHalf(data[from + component]);
    }
  }
  const drawn: DrawnEnvironment = {
    texels,
    width,
    height,
    mean: meanRadiance(width, height, 3, (index) => data[index]),
  };
  self.postMessage(drawn, { transfer: [texels.buffer] });
};
