'use client';

import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import type { Material } from '@kinkajou/core/scene/material';
import { type MouseEvent, type ReactNode, type RefObject, useEffect, useMemo, useRef } from 'react';
import { useCommands } from '@/ui/commands/useCommands';
import { Mark, type MarkKind } from '@/ui/Mark';
import { RowList } from '@/ui/RowList';
import { focusMaterial, useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { valueText } from '../slots/BoardCell.tsx';
import { StepSheet } from '../steps/StepSheet.tsx';
import { SurfaceSheet } from './SurfaceSheet.tsx';

const WORKFLOWS = { metalRough: 'metal/rough', specGloss: 'spec/gloss', legacy: 'legacy' };
const ROW = 30;
const COLUMNS = '16px minmax(0, 1fr) 62px 92px 74px 74px 78px';

/**
 * Each material's few numbers that matter, as a metal/rough shader reads them; the chosen ones are changed
 * together.
 */
export function SurfaceStep() {
  const { view } = useBench();
  const { materials } = view.state;
  const scrollTo = useRef<(index: number) => void>(() => {});
  const { chosen, choose } = useChosenMaterials(scrollTo);
  const marks = useMemo(() => {
    const found = new Map<string, MarkKind>();
    for (const { step, severity, target } of view.findings)
      if (
        step === 'surface' &&
        target.material &&
        severity !== 'note' &&
        found.get(target.material) !== 'broken'
      )
        found.set(target.material, severity === 'error' ? 'broken' : 'doubtful');
    return found;
  }, [view.findings]);
  return (
    <div
      className="grid h-full"
      style={{ gridTemplateRows: 'minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
    >
      <StepSheet title="Surface" note="each material as a metal/rough shader reads it">
        <RowList
          label="Surfaces"
          columns={COLUMNS}
          heads={['', 'Material', 'Written as', 'Base colour', 'Metal', 'Rough', 'Alpha']}
          rows={materials}
          height={ROW}
          scrollTo={scrollTo}
          state={({ key }) => ({ key, selected: chosen.includes(key), data: { 'data-surface': key } })}
          pick={({ key }, event) => choose(key, event)}
          empty="This model has no materials."
          cells={(material) =>
            cellsOf(material, marks.get(material.key) ?? 'fine', view.state.numbers?.[material.key])
          }
        />
      </StepSheet>
      <SurfaceSheet chosen={chosen} />
    </div>
  );
}

function cellsOf(material: Material, mark: MarkKind, number: number | undefined): ReactNode[] {
  const { baseColor, metalness, roughness } = toMetalRough(material);
  return [
    <Mark key="mark" kind={mark} />,
    <b key="name" className="truncate" title={material.key}>
      {number !== undefined && (
        <span className="pr-1.5 font-mono text-[11px] font-normal text-secondary">{number}</span>
      )}
      {material.name}
    </b>,
    <span key="workflow" className="narrow truncate">
      {WORKFLOWS[material.workflow]}
    </span>,
    ...[baseColor, metalness, roughness].map(({ value, map }, i) => (
      <span key={i} className="truncate font-mono text-[11.3px]">
        {valueText(value)}
        {map !== null && <span className="font-sans text-secondary"> × map</span>}
      </span>
    )),
    <span key="alpha" className="narrow truncate">
      {material.alphaMode}
      {material.doubleSided && ', 2 sides'}
    </span>,
  ];
}

/** The chosen materials follow the focused slot; Ctrl and Shift choose more, arrows move. */
function useChosenMaterials(scrollTo: RefObject<(index: number) => void>): {
  chosen: string[];
  choose(key: string, event: Pick<MouseEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'>): void;
} {
  const { view } = useBench();
  const { slot, selected, set } = useFocus();
  const keys = useMemo(() => view.state.materials.map((material) => material.key), [view.state]);
  const chosen = useMemo(
    () => keys.filter((key) => selected.some((one) => one.material === key)),
    [keys, selected],
  );
  useEffect(() => {
    if (keys.length > 0 && chosen.length === 0) focusMaterial(keys[0]);
  }, [keys, chosen]);
  useEffect(() => {
    const row = keys.indexOf(slot?.material ?? '');
    if (row >= 0) scrollTo.current(row);
  }, [slot?.material, keys, scrollTo]);
  useCommands({
    move: (event) => {
      const by = { ArrowDown: 1, ArrowUp: -1 }[event?.key ?? ''];
      if (by === undefined || keys.length === 0) return false;
      const next = Math.min(keys.length - 1, Math.max(0, keys.indexOf(slot?.material ?? '') + by));
      focusMaterial(keys[next]);
    },
  });
  return {
    chosen,
    choose(key, { ctrlKey, metaKey, shiftKey }) {
      if (ctrlKey || metaKey)
        return focusMaterial(
          key,
          chosen.includes(key) ? chosen.filter((other) => other !== key) : [...chosen, key],
        );
      if (shiftKey && slot) {
        const [a, b] = [keys.indexOf(slot.material), keys.indexOf(key)].sort((x, y) => x - y);
        return set({
          selected: keys
            .slice(Math.max(0, a), b + 1)
            .map((material) => ({ material, channel: slot.channel })),
        });
      }
      focusMaterial(key);
    },
  };
}
