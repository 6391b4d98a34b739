'use client';

import { useDroppable } from '@dnd-kit/core';
import { nodeKeys } from '@kinkajou/core/asset/asset';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Box, Camera, FolderClosed, Lightbulb, Spline } from 'lucide-react';
import { type ReactNode, useMemo, useRef } from 'react';
import { count, plural } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import type { DropTarget } from '../slots/ImageDrag.tsx';
import { ImageTray } from '../slots/ImageTray.tsx';
import { StepSheet } from './StepSheet.tsx';

const ICONS: Record<string, typeof Box> = { mesh: Box, camera: Camera, light: Lightbulb, bone: Spline };
const ROW = 28;

/** The hierarchy as the model has it. */
export function PartsStep() {
  const { view } = useBench();
  const { nodes } = view.source;
  const scroller = useRef<HTMLDivElement>(null);
  const keys = useMemo(() => nodeKeys(nodes), [nodes]);
  const bindings = view.state.bindings ?? {};
  const depths = useMemo(() => depthsOf(nodes), [nodes]);
  const virtual = useVirtualizer({
    count: nodes.length,
    getScrollElement: () => scroller.current?.parentElement ?? null,
    estimateSize: () => ROW,
    overscan: 12,
  });
  return (
    <div className="grid h-full" style={{ gridTemplateRows: 'minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}>
      <StepSheet title="Parts" note={`${plural(nodes.length, 'node')}; drop an image on a part to give it a material of that image`}>
        <div ref={scroller} style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const node = nodes[item.index];
            const Icon = ICONS[node.kind] ?? FolderClosed;
            return (
              <PartRow key={item.key} node={keys[item.index]} top={item.start} indent={12 + depths[item.index] * 16}>
                <Icon size={13} className="shrink-0 text-[var(--soft)]" />
                <span className="truncate">{node.name}</span>
                {bindings[keys[item.index]] && <span className="truncate text-[11.5px] text-secondary">{bindings[keys[item.index]]}</span>}
                <span className="flex-1" />
                <span className="text-[11.5px] whitespace-nowrap text-[var(--soft)]">{node.polygons > 0 ? `${count(node.polygons)} polygons` : node.kind}</span>
              </PartRow>
            );
          })}
        </div>
      </StepSheet>
      <ImageTray />
    </div>
  );
}

/** One node; an image that is dropped on it becomes its material. */
function PartRow({ node, top, indent, children }: { node: string; top: number; indent: number; children: ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: `part:${node}`, data: { on: 'part', node } satisfies DropTarget });
  return (
    <div
      ref={setNodeRef}
      data-part={node}
      className={`absolute inset-x-0 flex items-center gap-2 border-b border-[var(--line-soft)] pr-3 text-[12.3px] ${isOver ? 'bg-[var(--honey-wash)]' : ''}`}
      style={{ top, height: ROW, paddingLeft: indent }}
    >
      {children}
    </div>
  );
}

/** How deep each node lies; parents come before their children. */
function depthsOf(nodes: readonly { parent: number }[]): number[] {
  const depths: number[] = [];
  for (const { parent } of nodes) depths.push(parent < 0 ? 0 : depths[parent] + 1);
  return depths;
}
