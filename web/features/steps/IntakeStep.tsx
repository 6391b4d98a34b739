'use client';

import { bytes, count, extent, metres, plural } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { Fact, StepSheet } from './StepSheet.tsx';

const FIGURE = 1.75;

/** What arrived: the model's header, counts, size against a person, and every image of the parcel. */
export function IntakeStep() {
  const { view } = useBench();
  const { source, images, parcel } = view;
  const { counts } = source;
  return (
    <StepSheet title="Intake" note={`${parcel.name}, ${plural(images.length, 'image')}`}>
      <div className="grid grid-cols-[minmax(0,1fr)_220px] gap-4 p-4">
        <dl className="grid auto-rows-min gap-1.5">
          <Fact name="Model">
            <span className="font-mono text-[11.5px]">{source.model}</span>
          </Fact>
          <Fact name="Format">
            {source.format}, {source.variant}
          </Fact>
          {source.generator && <Fact name="Written by">{source.generator}</Fact>}
          <Fact name="Unit">
            {source.metresPerUnit} m per unit{source.unitStated ? '' : ', not stated in the file'}
          </Fact>
          <Fact name="Up axis">{source.upAxis}</Fact>
          <Fact name="Size">{extent(source.bounds)}</Fact>
          <Fact name="Geometry">
            {plural(counts.meshes, 'mesh', 'meshes')}, {count(counts.polygons)} polygons, {count(counts.triangles)} triangles, {count(counts.points)} points
          </Fact>
          <Fact name="Materials">
            {plural(counts.materials, 'material')}, {plural(counts.maps, 'map')}
          </Fact>
          <Fact name="Beside them">
            {plural(counts.cameras, 'camera')}, {plural(counts.lights, 'light')}, {plural(counts.clips, 'clip')}, {plural(counts.skins, 'skin')}
          </Fact>
          <Fact name="UV sets">{source.uvSets.join(', ') || 'none'}</Fact>
        </dl>
        <SizeFigure />
      </div>
      <table className="sheet-table">
        <thead>
          <tr>
            <th>Image of the parcel</th>
            <th>Pixels</th>
            <th>Depth</th>
            <th>Size</th>
          </tr>
        </thead>
        <tbody>
          {images.map((image) => (
            <tr key={image.path}>
              <td className="max-w-0 w-full">
                <span className="flex items-center gap-2">
                  <Mark kind={image.info ? 'fine' : 'broken'} />
                  <span className="truncate font-mono text-[11.5px]" title={image.path}>
                    {image.path}
                  </span>
                </span>
                {image.fault && <span className="text-[11.5px] text-error">{image.fault.message}</span>}
              </td>
              <td className="whitespace-nowrap">{image.info ? `${image.info.width} × ${image.info.height}` : '-'}</td>
              <td className="whitespace-nowrap">
                {image.info ? `${image.info.components} × ${image.info.bitDepth} bit${image.info.floating ? ' float' : ''}` : '-'}
              </td>
              <td className="whitespace-nowrap">{bytes(image.size)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {images.length === 0 && <p className="p-8 text-center text-[var(--soft)]">The parcel holds no images. Upload some in Links.</p>}
    </StepSheet>
  );
}

/** The asset's outline as a box beside a person of 1.75 m, to scale. */
function SizeFigure() {
  const { source } = useBench().view;
  if (!source.bounds) return null;
  const { min, max } = source.bounds;
  const up = 'XYZ'.indexOf(source.upAxis);
  const height = max[up] - min[up];
  const width = Math.max(...[0, 1, 2].filter((axis) => axis !== up).map((axis) => max[axis] - min[axis]));
  const tallest = Math.max(height, FIGURE);
  const scale = 150 / Math.max(tallest, (width + 0.8) * 0.75);
  const base = 168;
  const person = FIGURE * scale;
  return (
    <figure className="rounded-md border border-[var(--line)] bg-base-200 p-1">
      <svg viewBox="0 0 220 190" role="img" aria-label={`${metres(height)} m high beside a person of 1.75 m`}>
        <line x1="8" x2="212" y1={base} y2={base} stroke="var(--line)" />
        <g fill="var(--soft)" opacity="0.75" transform={`translate(46 ${base}) scale(${person / 175})`}>
          <circle cx="0" cy="-162" r="12.5" />
          <path d="M-20 -142q20 -10 40 0l5 56q-3 5 -8 2l-4 -36 1 42 -3 76q-6 4 -10 0l-2 -70 -2 70q-4 4 -10 0l-3 -76 1 -42 -4 36q-5 3 -8 -2z" />
        </g>
        <rect
          x={92}
          y={base - height * scale}
          width={Math.max(1.5, width * scale)}
          height={Math.max(1.5, height * scale)}
          fill="var(--honey-wash)"
          stroke="var(--color-accent)"
          strokeWidth="1.5"
        />
        <text x="46" y="184" textAnchor="middle" fontSize="10.5" fill="var(--soft)">
          1.75 m
        </text>
        <text x={92} y="184" fontSize="10.5" fill="var(--color-base-content)">
          {metres(width)} wide, {metres(height)} high
        </text>
      </svg>
    </figure>
  );
}
