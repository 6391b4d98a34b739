'use client';

import { useDroppable } from '@dnd-kit/core';
import { usesOfImages } from '@kinkajou/core/asset/asset';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { Canvas, useThree } from '@react-three/fiber';
import {
  AppWindow,
  Camera,
  Crosshair,
  Grid3x3,
  Maximize2,
  Minimize2,
  PanelRightClose,
  PersonStanding,
  RotateCw,
  Scan,
} from 'lucide-react';
import { Component, type ReactNode, useEffect, useMemo, useState } from 'react';
import { DefaultLoadingManager, type PerspectiveCamera, Vector3 } from 'three';
import type { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { Bar } from '@/ui/Bar';
import { Chip, ChipSelect } from '@/ui/Chip';
import { DIAGNOSTIC_MODES, useChoices, type ViewMode } from '@/ui/choices';
import { useCommands } from '@/ui/commands/useCommands';
import { extent, plural } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import { useBench } from '../bench/useBench.ts';
import { CompareOverlay } from '../compare/CompareOverlay.tsx';
import { CompareScene } from '../compare/CompareScene.tsx';
import { usePartFocus } from '../parts/partFocus.ts';
import type { DropTarget } from '../slots/ImageDrag.tsx';
import { AssetModel } from './AssetModel.tsx';
import { useDensity } from './density.ts';
import { numberColour } from './diagnostics.ts';
import { LightPanel } from './LightPanel.tsx';
import { channelsIn } from './materials.ts';
import { Orbit } from './Orbit.tsx';
import { Probe } from './Probe.tsx';
import { Surroundings } from './Surroundings.tsx';
import { useOverlayNote } from './shapeOverlays.ts';
import { useStage } from './stage.ts';
import { useTurning } from './turning.ts';
import { uvNames } from './uvPlaces.ts';

/** Of one turn, where nothing else was chosen. */
const TURN_SECONDS = 8;
const FIRST_MODES: readonly ViewMode[] = ['lit', 'baseColor'];
const DIAGNOSTIC_TITLES: Record<(typeof DIAGNOSTIC_MODES)[number], string> = {
  uv: 'UV grid',
  materials: 'Material numbers',
  facing: 'Face direction',
  density: 'Texel density',
};

/**
 * The asset under light, one of its channels alone, or what its geometry is like; `alone` where it is all
 * that its window holds.
 */
export function Viewport({ step, alone = false }: { step: string; alone?: boolean }) {
  const { view } = useBench();
  const comparing = step === 'compare';
  const { setNodeRef, isOver } = useDroppable({ id: 'view', data: { on: 'view' } satisfies DropTarget });
  const choices = useChoices((state) => state.view);
  const setView = useChoices((state) => state.setView);
  const turning = useTurning(({ seconds }) => seconds);
  useCommands({
    playTurn: comparing ? null : () => useTurning.setState({ seconds: turning > 0 ? 0 : TURN_SECONDS }),
  });
  return (
    <aside
      className="relative grid h-full min-h-0 min-w-0"
      style={{ gridTemplateRows: '40px minmax(0, 1fr) auto', gridTemplateColumns: 'minmax(0, 1fr)' }}
      aria-label="View"
    >
      <ViewBar alone={alone} />
      <div
        ref={setNodeRef}
        className={`relative min-h-0 overflow-hidden ${isOver ? 'ring-2 ring-accent ring-inset' : ''}`}
        style={{ background: 'linear-gradient(var(--sky-top), var(--sky-mid) 55%, var(--sky-low))' }}
      >
        <ViewportGuard>
          <Canvas
            frameloop="demand"
            dpr={[1, 1.5]}
            shadows="variance"
            gl={{ antialias: true, alpha: true }}
            camera={{ fov: 32, near: 0.01, far: 1000, position: [2, 1.2, 3] }}
            aria-label={`${view.name} in three dimensions; drag to turn, wheel to come nearer`}
          >
            <Surroundings />
            {comparing ? <CompareScene /> : <AssetModel step={step} />}
            <Orbit />
            <StageKeeper />
          </Canvas>
        </ViewportGuard>
        {comparing ? <CompareOverlay /> : choices.probe && <Probe />}
        {!comparing && (
          <div className="pointer-events-none absolute top-3 left-3 grid justify-items-start gap-1.5">
            <MissingNote />
            <OverlayNote />
            {step === 'parts' && <PickNote />}
          </div>
        )}
        <LoadingNote />
        <DiagnosticNote />
        <span className="absolute right-3 bottom-3 flex items-center gap-1 rounded-[5px] bg-base-100/80 px-1 py-0.5 text-[11.5px]">
          {!comparing && (
            <IconButton
              label="A person of 1.75 m beside the asset"
              pressed={choices.figure}
              onClick={() => setView({ figure: !choices.figure })}
            >
              <PersonStanding size={14} />
            </IconButton>
          )}
          {!comparing && (
            <IconButton
              command="playTurn"
              label={turning > 0 ? 'Stop the turn' : undefined}
              pressed={turning > 0}
            >
              <RotateCw size={14} />
            </IconButton>
          )}
          {!alone && (
            <IconButton command="viewWindow">
              <AppWindow size={14} />
            </IconButton>
          )}
          <span className="px-1">{extent(view.source.bounds)}</span>
        </span>
      </div>
      <LightPanel />
    </aside>
  );
}

/** Lends the view's renderer to whoever takes pictures. */
function StageKeeper() {
  const { gl, scene, camera, controls, size, viewport, invalidate } = useThree();
  useEffect(() => {
    useStage.setState({
      stage: {
        gl,
        scene,
        camera: camera as PerspectiveCamera,
        target: () => (controls as OrbitControls | null)?.target.clone() ?? new Vector3(),
        restore() {
          gl.setPixelRatio(viewport.dpr);
          gl.setSize(size.width, size.height, false);
          invalidate();
        },
      },
    });
    return () => useStage.setState({ stage: null });
  }, [gl, scene, camera, controls, size, viewport.dpr, invalidate]);
  return null;
}

function ViewBar({ alone }: { alone: boolean }) {
  const { view } = useBench();
  const { mode, wireframe, probe, size, uvSet } = useChoices((state) => state.view);
  const setView = useChoices((state) => state.setView);
  const channels = useMemo(
    () => channelsIn(view.state).filter((channel) => !FIRST_MODES.includes(channel)),
    [view.state],
  );
  const first = FIRST_MODES.includes(mode);
  const uvSets = uvNames(view.source);
  return (
    <Bar className="bg-base-200" style={{ gap: 3 }}>
      {/* The name of a channel takes the title's room: nothing of the row is cut at 1280. */}
      <h2 className={first ? 'text-[14px] font-bold' : 'sr-only'}>View</h2>
      <span className="flex-1" />
      {FIRST_MODES.map((key) => (
        <Chip key={key} aria-pressed={mode === key} onClick={() => setView({ mode: key })}>
          {modeTitle(key)}
        </Chip>
      ))}
      <ChipSelect
        className={first ? 'w-[68px]' : 'w-[92px]'}
        aria-label="Other channels"
        value={first ? '' : mode}
        onChange={(event) => setView({ mode: (event.target.value || 'lit') as ViewMode })}
        style={
          first
            ? undefined
            : {
                background: 'var(--honey-wash)',
                borderColor: 'var(--color-accent)',
                color: 'var(--honey-ink)',
              }
        }
      >
        <option value="">more</option>
        <optgroup label="Channels">
          {channels.map((key) => (
            <option key={key} value={key}>
              {modeTitle(key)}
            </option>
          ))}
          {!first && !isDiagnostic(mode) && !channels.includes(mode as never) && (
            <option value={mode}>{modeTitle(mode)}</option>
          )}
        </optgroup>
        <optgroup label="Geometry">
          {DIAGNOSTIC_MODES.map((key) => (
            <option key={key} value={key}>
              {DIAGNOSTIC_TITLES[key]}
            </option>
          ))}
        </optgroup>
      </ChipSelect>
      {(mode === 'uv' || mode === 'density') && uvSets.length > 1 && (
        <ChipSelect
          className="w-16"
          aria-label="UV set"
          value={uvSet}
          onChange={(event) => setView({ uvSet: Number(event.target.value) })}
        >
          {uvSets.map((name, i) => (
            <option key={name} value={i}>
              {name || `UV ${i + 1}`}
            </option>
          ))}
        </ChipSelect>
      )}
      <IconButton command="probe" pressed={probe}>
        <Crosshair size={14} />
      </IconButton>
      <IconButton command="wireframe" pressed={wireframe}>
        <Grid3x3 size={14} />
      </IconButton>
      <IconButton command="frame">
        <Scan size={14} />
      </IconButton>
      <IconButton command="pictures">
        <Camera size={14} />
      </IconButton>
      {!alone && <SizeButtons size={size} />}
    </Bar>
  );
}

function SizeButtons({ size }: { size: ReturnType<typeof useChoices.getState>['view']['size'] }) {
  const setView = useChoices((state) => state.setView);
  return (
    <>
      <IconButton
        command="viewSize"
        label={size === 'full' ? 'View at the side' : 'View full'}
        onClick={() => setView({ size: size === 'full' ? 'side' : 'full' })}
      >
        {size === 'full' ? <Minimize2 size={14} /> : <Maximize2 size={14} />}
      </IconButton>
      <IconButton command="viewSize" label="Fold the view away" onClick={() => setView({ size: 'folded' })}>
        <PanelRightClose size={14} />
      </IconButton>
    </>
  );
}

function isDiagnostic(mode: ViewMode): mode is (typeof DIAGNOSTIC_MODES)[number] {
  return (DIAGNOSTIC_MODES as readonly string[]).includes(mode);
}

function modeTitle(mode: ViewMode): string {
  if (mode === 'lit') return 'Lit';
  return isDiagnostic(mode) ? DIAGNOSTIC_TITLES[mode] : channelTitle(mode);
}

/** What the colours of a diagnostic view mean. */
function DiagnosticNote() {
  const { view } = useBench();
  const mode = useChoices((state) => state.view.mode);
  const middle = useDensity((state) => state.middle);
  if (!isDiagnostic(mode)) return null;
  const swatch = (colour: string, word: string) => (
    <span className="flex items-center gap-1">
      <span className="size-2.5 rounded-sm border border-black/20" style={{ background: colour }} /> {word}
    </span>
  );
  return (
    <div
      className="absolute top-3 right-3 grid max-h-[60%] max-w-[46%] gap-0.5 overflow-hidden rounded-[5px] bg-base-100/88 px-2 py-1.5 text-[11.3px]"
      role="note"
    >
      {mode === 'uv' && 'eighths of the UV square, a red line at its border'}
      {mode === 'facing' && (
        <>
          {swatch('rgb(51 112 138)', 'front')}
          {swatch('rgb(194 64 46)', 'back')}
        </>
      )}
      {mode === 'density' && (
        <>
          {swatch('rgb(51 112 138)', `${Math.round(middle / 4).toLocaleString('en')} texels/m`)}
          {swatch('rgb(245 240 224)', `${Math.round(middle).toLocaleString('en')} texels/m, all over`)}
          {swatch('rgb(168 64 46)', `${Math.round(middle * 4).toLocaleString('en')} texels/m`)}
        </>
      )}
      {mode === 'materials' &&
        view.state.materials.slice(0, 16).map((material, i) => (
          <span key={material.key} className="flex items-center gap-1 truncate">
            {swatch(`#${numberColour(i).getHexString()}`, `${i + 1} ${material.key}`)}
          </span>
        ))}
    </div>
  );
}

/** Says how many files the picture still waits for; images are dark until they are there. */
function LoadingNote() {
  const [left, setLeft] = useState(0);
  useEffect(() => {
    const tell = (_url: string, done: number, total: number) => setLeft(total - done);
    Object.assign(DefaultLoadingManager, { onStart: tell, onProgress: tell, onLoad: () => setLeft(0) });
    return () =>
      void Object.assign(DefaultLoadingManager, {
        onStart: undefined,
        onProgress: () => undefined,
        onLoad: () => undefined,
      });
  }, []);
  if (left === 0) return null;
  return (
    <span
      className="absolute bottom-3 left-3 flex items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]"
      role="status"
    >
      <span className="loading loading-spinner loading-xs" /> {plural(left, 'file')} to come
    </span>
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
    <span className="flex items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]">
      <span className="missing-stripes size-3 rounded-sm border border-error" />{' '}
      {plural(missing.length, 'image')} missing
    </span>
  );
}

/** What the next click in the view is for. */
function PickNote() {
  const { picking, placing, set } = usePartFocus();
  useCommands(picking ? { stopPicking: () => set({ picking: false }) } : {});
  useCommands(placing && !placing.sent ? { stopPlacing: () => set({ placing: null }) } : {});
  useEffect(() => () => set({ picking: false, placing: null }), [set]);
  if (!picking) return null;
  return (
    <span role="status" className="rounded-md border border-accent bg-base-100 px-2 py-1 text-[12px]">
      Click the place that the selected parts turn about; Escape leaves it where it is
    </span>
  );
}

/** Says which faces are tinted and what shapes for collision are drawn. */
function OverlayNote() {
  const { tinted, collision } = useOverlayNote();
  return (
    <>
      {tinted && (
        <span
          className="flex items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]"
          role="status"
        >
          <span className="size-3 rounded-sm" style={{ background: '#cf2f3f' }} /> {tinted}
        </span>
      )}
      {collision && (
        <span
          className="flex items-center gap-1.5 rounded-[5px] bg-base-100/85 px-2 py-1 text-[11.5px]"
          role="status"
        >
          <span className="size-3 rounded-sm border-2" style={{ borderColor: '#1d7f8c' }} /> {collision}
        </span>
      )}
    </>
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
      <p className="p-6 text-center text-[var(--soft)]">
        The view cannot be drawn in this browser ({this.state.fault}). Everything else works without it.
      </p>
    );
  }
}
