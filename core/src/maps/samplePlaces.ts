/**
 * Where samples lie along a side that is divided into cells, cell after cell: indices of pixels, evenly
 * spread over each.
 */
export function samplePlaces(size: number, cells: number, samples: number): Int32Array {
  const places = new Int32Array(cells * samples);
  for (let cell = 0; cell < cells; cell += 1)
    for (let i = 0; i < samples; i += 1)
      places[cell * samples + i] = Math.min(
        size - 1,
        Math.floor(((cell + (i + 0.5) / samples) / cells) * size),
      );
  return places;
}
