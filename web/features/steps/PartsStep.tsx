'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { Box, Camera, FolderClosed, Lightbulb, Spline } from 'lucide-react';
import { useMemo, useRef } from 'react';
import { count, plural } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import { StepSheet } from './StepSheet.tsx';

const ICONS: Record<string, typeof Box> = { mesh: Box, camera: Camera, light: Lightbulb, bone: Spline };
const ROW = 28;

/** The hierarchy as the model has it. */
export function PartsStep() {
  const { view } = useBench();
  const { nodes } = view.source;
  const scroller = useRef<HTMLDivElement>(null);
  const depths = useMemo(() => depthsOf(nodes), [nodes]);
  const virtual = useVirtualizer({
    count: nodes.length,
    getScrollElement: () => scroller.current?.parentElement ?? null,
    estimateSize: () => ROW,
    overscan: 12,
  });
  return (
    <StepSheet title="Parts" note={plural(nodes.length, 'node')}>
      <div ref={scroller} style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const node = nodes[item.index];
          const Icon = ICONS[node.kind] ?? FolderClosed;
          return (
            <div
              key={item.key}
              className="absolute inset-x-0 flex items-center gap-2 border-b border-[var(--line-soft)] pr-3 text-[12.3px]"
              style={{ top: item.start, height: ROW, paddingLeft: 12 + depths[item.index] * 16 }}
            >
              <Icon size={13} className="shrink-0 text-[var(--soft)]" />
              <span className="truncate">{node.name}</span>
              <span className="flex-1" />
              <span className="text-[11.5px] whitespace-nowrap text-[var(--soft)]">{node.polygons > 0 ? `${count(node.polygons)} polygons` : node.kind}</span>
            </div>
          );
        })}
      </div>
    </StepSheet>
  );
}

/** How deep each node lies; parents come before their children. */
function depthsOf(nodes: readonly { parent: number }[]): number[] {
  const depths: number[] = [];
  for (const { parent } of nodes) depths.push(parent < 0 ? 0 : depths[parent] + 1);
  return depths;
}
