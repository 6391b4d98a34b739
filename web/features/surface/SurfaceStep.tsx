'use client';

import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type MouseEvent, useEffect, useMemo, useRef } from 'react';
import { Mark, type MarkKind } from '@/ui/Mark';
import { useFocus } from '../bench/focus.ts';
import { isTyping } from '../bench/keys.ts';
import { useBench } from '../bench/useBench.ts';
import { valueText } from '../slots/BoardCell.tsx';
import { StepSheet } from '../steps/StepSheet.tsx';
import { SurfaceSheet } from './SurfaceSheet.tsx';

const WORKFLOWS = { metalRough: 'metal/rough', specGloss: 'spec/gloss', legacy: 'legacy' };
const ROW = 30;
const COLUMNS = '16px minmax(0, 1fr) 62px 92px 74px 74px 78px';

/** Each material's few numbers that matter, as a metal/rough shader reads them; the chosen ones are changed together. */
export function SurfaceStep() {
  const { view } = useBench();
  const { materials } = view.state;
  const scroller = useRef<HTMLDivElement>(null);
  const { chosen, choose } = useChosenMaterials();
  const marks = useMemo(() => {
    const found = new Map<string, MarkKind>();
    for (const { step, severity, target } of view.findings)
      if (step === 'surface' && target.material && severity !== 'note' && found.get(target.material) !== 'broken')
        found.set(target.material, severity === 'error' ? 'broken' : 'doubtful');
    return found;
  }, [view.findings]);
  const virtual = useVirtualizer({
    count: materials.length,
    getScrollElement: () => scroller.current?.parentElement ?? null,
    estimateSize: () => ROW,
    overscan: 12,
    paddingStart: 26,
  });
  return (
    <div className="grid h-full" style={{ gridTemplateRows: 'minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}>
      <StepSheet title="Surface" note="each material as a metal/rough shader reads it">
        <div ref={scroller} style={{ height: virtual.getTotalSize(), position: 'relative' }} role="table" aria-label="Surfaces">
          <div
            role="row"
            className="narrow sticky top-0 z-10 grid h-[26px] items-center gap-2 bg-base-300 px-3 text-[11.5px] font-semibold"
            style={{ gridTemplateColumns: COLUMNS }}
          >
            {['', 'Material', 'Written as', 'Base colour', 'Metal', 'Rough', 'Alpha'].map((title) => (
              <span key={title} role="columnheader">
                {title}
              </span>
            ))}
          </div>
          {virtual.getVirtualItems().map((item) => {
            const material = materials[item.index];
            const shading = toMetalRough(material);
            const number = (value: number | [number, number, number], map: unknown) => (
              <span className="truncate font-mono text-[11.3px]">
                {valueText(value)}
                {map !== null && <span className="font-sans text-secondary"> × map</span>}
              </span>
            );
            return (
              <div
                key={material.key}
                role="row"
                tabIndex={-1}
                aria-selected={chosen.includes(material.key)}
                data-surface={material.key}
                className={`absolute inset-x-0 grid cursor-pointer items-center gap-2 border-b border-[var(--line-soft)] px-3 text-[12.3px] ${chosen.includes(material.key) ? 'bg-[var(--honey-wash)]' : ''}`}
                style={{ top: item.start, height: ROW, gridTemplateColumns: COLUMNS }}
                onMouseDown={(event) => choose(material.key, event)}
              >
                <Mark kind={marks.get(material.key) ?? 'fine'} />
                <b className="truncate" title={material.key}>
                  {material.key}
                </b>
                <span className="narrow truncate">{WORKFLOWS[material.workflow]}</span>
                {number(shading.baseColor.value, shading.baseColor.map)}
                {number(shading.metalness.value, shading.metalness.map)}
                {number(shading.roughness.value, shading.roughness.map)}
                <span className="narrow truncate">
                  {material.alphaMode}
                  {material.doubleSided && ', 2 sides'}
                </span>
              </div>
            );
          })}
          {materials.length === 0 && <p className="pt-16 text-center text-[var(--soft)]">This model has no materials.</p>}
        </div>
      </StepSheet>
      <SurfaceSheet chosen={chosen} />
    </div>
  );
}

/** The chosen materials follow the focused slot; Ctrl and Shift choose more, arrows move. */
function useChosenMaterials(): { chosen: string[]; choose(key: string, event: Pick<MouseEvent, 'ctrlKey' | 'metaKey' | 'shiftKey'>): void } {
  const { view } = useBench();
  const { slot, selected, set } = useFocus();
  const keys = useMemo(() => view.state.materials.map((material) => material.key), [view.state]);
  const chosen = useMemo(() => keys.filter((key) => selected.some((one) => one.material === key)), [keys, selected]);
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    if (keys.length > 0 && chosen.length === 0) select(keys[0], [keys[0]]);
  }, [keys, chosen]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const move = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
      if (isTyping(event) || (event.target as HTMLElement).closest('input') || useFocus.getState().dialog || move === 0) return;
      const at = latest.current.indexOf(useFocus.getState().slot?.material ?? '');
      const next = latest.current[Math.min(latest.current.length - 1, Math.max(0, at + move))];
      if (next !== undefined) select(next, [next]);
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return {
    chosen,
    choose(key, { ctrlKey, metaKey, shiftKey }) {
      if (ctrlKey || metaKey) return select(key, chosen.includes(key) ? chosen.filter((other) => other !== key) : [...chosen, key]);
      if (shiftKey && slot) {
        const [a, b] = [keys.indexOf(slot.material), keys.indexOf(key)].sort((x, y) => x - y);
        return set({ selected: keys.slice(Math.max(0, a), b + 1).map((material) => ({ material, channel: slot.channel })) });
      }
      select(key, [key]);
    },
  };
}

function select(key: string, all: string[]): void {
  const channel = useFocus.getState().slot?.channel ?? 'baseColor';
  const here = { material: key, channel };
  useFocus.getState().set({ slot: here, anchor: here, selected: all.map((material) => ({ material, channel })) });
}
