'use client';

import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import { valueText } from '../slots/BoardCell.tsx';
import { useBench } from '../bench/useBench.ts';
import { StepSheet } from './StepSheet.tsx';

const WORKFLOWS = { metalRough: 'metal/rough', specGloss: 'spec/gloss', legacy: 'legacy' };

/** Each material as a metal/rough shader reads it, and how it treats light that passes. */
export function SurfaceStep() {
  const { view } = useBench();
  return (
    <StepSheet title="Surface" note="each material as a metal/rough shader reads it">
      <table className="sheet-table">
        <thead>
          <tr>
            <th>Material</th>
            <th>Written as</th>
            <th>Base colour</th>
            <th>Metal</th>
            <th>Rough</th>
            <th>Index</th>
            <th>Opacity</th>
            <th>Alpha</th>
            <th>Sides</th>
          </tr>
        </thead>
        <tbody>
          {view.state.materials.map((material) => {
            const shading = toMetalRough(material);
            return (
              <tr key={material.key}>
                <td className="font-semibold">{material.key}</td>
                <td className="whitespace-nowrap">
                  {WORKFLOWS[material.workflow]}
                  {material.exponent !== null && `, Ns ${material.exponent}`}
                </td>
                <NumberCell value={shading.baseColor.value} map={shading.baseColor.map !== null} />
                <NumberCell value={shading.metalness.value} map={shading.metalness.map !== null} />
                <NumberCell value={shading.roughness.value} map={shading.roughness.map !== null} />
                <NumberCell value={shading.ior} map={false} />
                <NumberCell value={shading.opacity.value} map={shading.opacity.map !== null} />
                <td>
                  {material.alphaMode}
                  {material.alphaMode === 'mask' && ` at ${material.alphaCutoff}`}
                </td>
                <td>{material.doubleSided ? 'two' : 'one'}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </StepSheet>
  );
}

function NumberCell({ value, map }: { value: number | [number, number, number]; map: boolean }) {
  return (
    <td className="font-mono text-[11.5px] whitespace-nowrap">
      {valueText(value)}
      {map && <span className="font-sans text-secondary"> × map</span>}
    </td>
  );
}
