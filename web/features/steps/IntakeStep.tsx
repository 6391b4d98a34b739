'use client';

import { bytes, count, extent, plural } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { TakePanel } from '../intake/TakePanel.tsx';
import { Fact, StepSheet } from './StepSheet.tsx';

/** What arrived: the model's header and counts, what of it is taken, and every image of the parcel. */
export function IntakeStep() {
  const { view } = useBench();
  const { source, images, parcel } = view;
  const { counts } = source;
  return (
    <StepSheet title="Intake" note={`${parcel.name}, ${plural(images.length, 'image')}`}>
      <div className="p-4">
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
            {plural(counts.meshes, 'mesh', 'meshes')}, {count(counts.polygons)} polygons,{' '}
            {count(counts.triangles)} triangles, {count(counts.points)} points
          </Fact>
          <Fact name="Materials">
            {plural(counts.materials, 'material')}, {plural(counts.maps, 'map')}
          </Fact>
          <Fact name="Beside them">
            {plural(counts.cameras, 'camera')}, {plural(counts.lights, 'light')},{' '}
            {plural(counts.clips, 'clip')}, {plural(counts.skins, 'skin')}
          </Fact>
          <Fact name="UV sets">{source.uvSets.join(', ') || 'none'}</Fact>
        </dl>
      </div>
      <TakePanel />
      <table className="table table-xs table-pin-rows">
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
              <td className="whitespace-nowrap">
                {image.info ? `${image.info.width} × ${image.info.height}` : '-'}
              </td>
              <td className="whitespace-nowrap">
                {image.info
                  ? `${image.info.components} × ${image.info.bitDepth} bit${image.info.floating ? ' float' : ''}`
                  : '-'}
              </td>
              <td className="whitespace-nowrap">{bytes(image.size)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {images.length === 0 && (
        <p className="p-8 text-center text-[var(--soft)]">
          The parcel holds no images. Upload some in Links.
        </p>
      )}
    </StepSheet>
  );
}
