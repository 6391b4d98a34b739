'use client';

import { usesOfImages } from '@kinkajou/core/asset/asset';
import { useDroppable } from '@dnd-kit/core';
import { OrbitControls } from '@react-three/drei';
import { Canvas } from '@react-three/fiber';
import { Maximize2, Minimize2, PanelRightClose, PanelRightOpen, Scan } from 'lucide-react';
import { Component, type ReactNode, useMemo } from 'react';
import { NeutralToneMapping } from 'three';
import { useChoices, VIEW_MODES, type ViewMode } from '@/ui/choices';
import { channelTitle, extent, plural } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import type { DropTarget } from '../slots/ImageDrag.tsx';
import { AssetModel } from './AssetModel.tsx';
import { frameAll } from './frame.ts';
import { Surroundings } from './Surroundings.tsx';

const FIRST_MODES: readonly ViewMode[] = ['lit', 'baseColor'];

/** The asset under light, or one of its channels alone. */
export function Viewport() {
  const { view } = useBench();
  const { setNodeRef, isOver } = useDroppable({ id: 'view', data: { on: 'view' } satisfies DropTarget });
  const choices = useChoices((state) => state.view);
  const setView = useChoices((state) => state.setView);
  if (choices.size === 'folded') {
    return (
      <aside className="grid justify-items-center border-l border-[var(--line)] bg-base-200 pt-2" style={{ alignContent: 'start' }}>
        <IconButton label="Unfold the view (V)" onClick={() => setView({ size: 'side' })}>
          <PanelRightOpen size={15} />
        </IconButton>
      </aside>
    );
  }
  return (
    <aside
      className="relative grid min-h-0 min-w-0"
      style={{ gridTemplateRows: '40px minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
      aria-label="View"
    >
      <ViewBar />
      <div
        ref={setNodeRef}
        className={`relative min-h-0 overflow-hidden ${isOver ? 'ring-2 ring-accent ring-inset' : ''}`}
        style={{ background: 'linear-gradient(var(--sky-top), var(--sky-mid) 55%, var(--sky-low))' }}
      >
        <ViewportGuard>
          <Canvas
            frameloop="demand"
            dpr={[1, 1.5]}
            shadows="soft"
            gl={{ antialias: true, alpha: true, toneMapping: NeutralToneMapping }}
            camera={{ fov: 32, near: 0.01, far: 1000, position: [2, 1.2, 3] }}
            aria-label={`${view.name} in three dimensions; drag to turn, wheel to come nearer`}
          >
            <Surroundings />
            <AssetModel />
            <OrbitControls makeDefault enableDamping={false} />
          </Canvas>
        </ViewportGuard>
        <MissingNote />
        <span className="absolute right-3 bottom-3 rounded-[5px] bg-base-100/80 px-2 py-1 text-[11.5px]">{extent(view.source.bounds)}</span>
      </div>
      <LightControls />
    </aside>
  );
}

function ViewBar() {
  const { mode, wireframe, size } = useChoices((state) => state.view);
  const setView = useChoices((state) => state.setView);
  const rest = VIEW_MODES.filter((other) => !FIRST_MODES.includes(other));
  return (
    <div className="bar bg-base-200" style={{ gap: 6 }}>
      <h2 className="text-[14px] font-bold">View</h2>
      <span className="flex-1" />
      {FIRST_MODES.map((key) => (
        <button key={key} type="button" className="chip" aria-pressed={mode === key} onClick={() => setView({ mode: key })}>
          {modeTitle(key)}
        </button>
      ))}
      <select
        className="chip w-20"
        aria-label="Other channels"
        value={rest.includes(mode) ? mode : ''}
        onChange={(event) => setView({ mode: (event.target.value || 'lit') as ViewMode })}
        style={rest.includes(mode) ? { background: 'var(--honey-wash)', borderColor: 'var(--color-accent)', color: 'var(--honey-ink)' } : undefined}
      >
        <option value="">more</option>
        {rest.map((key) => (
          <option key={key} value={key}>
            {modeTitle(key)}
          </option>
        ))}
      </select>
      <button type="button" className="chip" aria-pressed={wireframe} title="Wireframe (W)" onClick={() => setView({ wireframe: !wireframe })}>
        wire
      </button>
      <IconButton label="Frame all (F)" onClick={frameAll}>
        <Scan size={14} />
      </IconButton>
      <IconButton label={size === 'full' ? 'View at the side (V)' : 'View full (V)'} onClick={() => setView({ size: size === 'full' ? 'side' : 'full' })}>
        {size === 'full' ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
      </IconButton>
      <IconButton label="Fold the view away (V)" onClick={() => setView({ size: 'folded' })}>
        <PanelRightClose size={14} />
      </IconButton>
    </div>
  );
}

function modeTitle(mode: ViewMode): string {
  return mode === 'lit' ? 'Lit' : channelTitle(mode);
}

function LightControls() {
  const { turn, exposure, key, ground } = useChoices((state) => state.view);
  const setView = useChoices((state) => state.setView);
  return (
    <div className="grid gap-2 border-t border-[var(--line)] bg-base-200 px-3 py-2 text-[12.3px]">
      <label className="flex items-center gap-2">
        <span className="w-[74px] text-[var(--soft)]">Soft studio</span>
        <input
          type="range"
          className="range range-xs range-primary flex-1"
          min={0}
          max={360}
          value={turn}
          onChange={(event) => setView({ turn: Number(event.target.value) })}
          aria-label="Turn of the studio in degrees"
        />
        <span className="w-11 text-right font-mono text-[11.5px]">{turn}°</span>
      </label>
      <div className="flex items-center gap-2">
        <span className="w-[74px] text-[var(--soft)]">Exposure</span>
        <input
          type="range"
          className="range range-xs range-primary min-w-0 flex-1"
          min={-3}
          max={3}
          step={0.1}
          value={exposure}
          onChange={(event) => setView({ exposure: Number(event.target.value) })}
          aria-label="Exposure in stops"
        />
        <span className="w-11 text-right font-mono text-[11.5px]">{exposure >= 0 ? `+${exposure.toFixed(1)}` : exposure.toFixed(1)}</span>
        <button type="button" className="chip" aria-pressed={key} onClick={() => setView({ key: !key })}>
          key
        </button>
        <button type="button" className="chip" aria-pressed={ground} onClick={() => setView({ ground: !ground })}>
          ground
        </button>
      </div>
    </div>
  );
}

/** Says which images the picture lacks, so that stripes and plain values are not taken for the look. */
function MissingNote() {
  const { view } = useBench();
  const missing = useMemo(() => {
    const uses = usesOfImages(view.state);
    return view.state.images.filter((image) => image.status === 'missing' && uses.has(image.key));
  }, [view.state]);
  if (missing.length === 0) return null;
  return (
    <span className="absolute top-3 left-3 flex items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]">
      <span className="missing-stripes size-3 rounded-sm border border-error" /> {plural(missing.length, 'image')} missing
    </span>
  );
}

function IconButton({ label, onClick, children }: { label: string; onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={label} title={label} onClick={onClick}>
      {children}
    </button>
  );
}

/** Where three dimensions cannot be drawn, the rest of the bench goes on. */
class ViewportGuard extends Component<{ children: ReactNode }, { fault: string | null }> {
  override state = { fault: null };

  static getDerivedStateFromError(error: Error) {
    return { fault: error.message };
  }

  override render() {
    if (this.state.fault === null) return this.props.children;
    return (
      <p className="p-6 text-center text-[var(--soft)]">The view cannot be drawn in this browser ({this.state.fault}). Everything else works without it.</p>
    );
  }
}
