/** How the plate's material is written in its source. */
const WRITTEN = ['metalRough', 'specGloss', 'classic', 'classicMetal'] as const;
type Written = (typeof WRITTEN)[number];
/** Where its numbers come from; `both` multiplies images by values. */
const VALUES = ['map', 'value', 'both'] as const;
type Values = (typeof VALUES)[number];
const CLEAR = ['opaque', 'mask', 'blend', 'glass'] as const;
type Clear = (typeof CLEAR)[number];
const PLATE_FORMATS = ['gltf', 'usd', 'obj', 'fbx'] as const;
type PlateFormat = (typeof PLATE_FORMATS)[number];

/** One way to write a plate. */
export interface Plate {
  format: PlateFormat;
  written: Written;
  values: Values;
  clear: Clear;
}

/** A destination with the type of model that is asked for. */
export interface Goal {
  destination: string;
  variant: string;
}

/** A plate and where it goes. */
export interface Cell extends Plate {
  goal: Goal;
}

/** Every built-in destination in every format it has words for. */
const GOALS: readonly Goal[] = [
  { destination: 'web-gltf', variant: 'glb' },
  { destination: 'compositor-usd', variant: 'usda' },
  { destination: 'render-film', variant: 'usda' },
  { destination: 'modelling', variant: 'fbx' },
  { destination: 'engine-packed', variant: 'fbx' },
  { destination: 'engine-gloss-alpha', variant: 'fbx' },
  { destination: 'render-specgloss', variant: 'fbx' },
  { destination: 'render-specgloss', variant: 'obj' },
  { destination: 'compositor-classic', variant: 'fbx' },
  { destination: 'compositor-classic', variant: 'obj' },
  { destination: 'garment-figure', variant: 'fbx' },
  { destination: 'garment-figure', variant: 'obj' },
  { destination: 'building-parts', variant: 'obj' },
];

/**
 * Every plate that its format has words for: only OBJ and FBX know classic materials, and a cut-out needs an
 * image.
 */
function allPlates(): Plate[] {
  return PLATE_FORMATS.flatMap((format) =>
    WRITTEN.filter(
      (written) => !written.startsWith('classic') || format === 'obj' || format === 'fbx',
    ).flatMap((written) =>
      VALUES.flatMap((values) =>
        CLEAR.filter((clear) => clear !== 'mask' || values !== 'value').map((clear) => ({
          format,
          written,
          values,
          clear,
        })),
      ),
    ),
  );
}

/** Every plate to every goal. */
export function allCells(): Cell[] {
  return allPlates().flatMap((plate) => GOALS.map((goal) => ({ ...plate, goal })));
}

/** A cell in words. */
export function cellName({ format, written, values, clear, goal }: Cell): string {
  return `${format}, ${written}, ${values}, ${clear} to ${goal.destination} (${goal.variant})`;
}
