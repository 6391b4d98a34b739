'use client';

import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  type DragStartEvent,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import type { SlotAddress } from '@kinkajou/core/asset/asset';
import { formEdits, formMaterials } from '@kinkajou/core/asset/formMaterials';
import { assignEdit, assignImagesEdit } from '@kinkajou/core/edits/slotEdits';
import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { pictureUrl } from '@/ui/api';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { materialUnder } from '../viewport/pick.ts';

/** Where images can be dropped. */
export type DropTarget =
  | { on: 'slot'; slot: SlotAddress }
  | { on: 'material'; material: string }
  | { on: 'view' }
  | { on: 'part'; node: string };

const DISTANCE = 5;

/** Lets images be dragged from the tray onto slots, materials, parts and the view. */
export function ImageDrag({ children }: { children: ReactNode }) {
  const bench = useBench();
  const [dragged, setDragged] = useState<string[]>([]);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: DISTANCE } }),
    useSensor(KeyboardSensor),
  );
  const start = ({ active }: DragStartEvent) => {
    const path = active.data.current?.path as string;
    const { images } = useFocus.getState();
    setDragged(images.includes(path) ? images : [path]);
  };
  const end = (event: DragEndEvent) => {
    const target = event.over?.data.current as DropTarget | undefined;
    if (target) drop(bench, dragged, target, event);
    setDragged([]);
  };
  const first = bench.view.images.find((image) => image.path === dragged[0]);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={start}
      onDragEnd={end}
      onDragCancel={() => setDragged([])}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {first && (
          <span
            className="relative block h-12 w-14 rounded border-2 border-accent bg-cover bg-center shadow-lg"
            style={{ backgroundImage: `url(${pictureUrl(first.sha256, 96)})` }}
          >
            {dragged.length > 1 && (
              <span className="absolute -top-2 -right-2 rounded-full bg-accent px-1.5 text-[11px] font-bold text-accent-content">
                {dragged.length}
              </span>
            )}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

function drop(bench: Bench, paths: string[], target: DropTarget, event: DragEndEvent): void {
  const { view } = bench;
  if (target.on === 'slot') {
    const { selected } = useFocus.getState();
    const inside = selected.some(
      ({ material, channel }) => material === target.slot.material && channel === target.slot.channel,
    );
    bench.apply([assignEdit(inside ? selected : [target.slot], paths[0], view)]);
    return;
  }
  if (target.on === 'part') {
    const formed = formMaterials(
      view.detected.filter((map) => paths.includes(map.path)),
      view.state.materials,
    ).slice(0, 1);
    const origin = { from: 'hand' as const, detail: 'dropped on a part' };
    bench.apply([
      ...formEdits(formed, origin),
      { kind: 'bindNodes', nodes: [target.node], material: formed[0].name, origin },
    ]);
    return;
  }
  const material = target.on === 'material' ? target.material : materialUnder(pointerAt(event));
  const edit = material === null ? null : assignImagesEdit(material, paths, view);
  if (edit) bench.apply([edit]);
  else
    toast(
      material === null
        ? 'There is no part under the pointer.'
        : 'These images do not say what they are for; drop one on a slot.',
    );
}

function pointerAt({ activatorEvent, delta }: DragEndEvent): { x: number; y: number } {
  const { clientX, clientY } = activatorEvent as PointerEvent;
  return { x: clientX + delta.x, y: clientY + delta.y };
}
