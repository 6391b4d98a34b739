'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { type Backdrop, useChoices } from '@/ui/choices';
import { Field } from '@/ui/Field';
import { Modal } from '@/ui/Modal';
import { Segments } from '@/ui/Segments';
import { useBench } from '../bench/useBench.ts';
import { drawsInSoftware } from './software.ts';
import { type Stage, useStage } from './stage.ts';
import { MOST_WIDTH, type StillOptions, takeStill, takeTurntable } from './stills.ts';
import type { Work } from './stillWork.ts';

const SIZES = [
  ['1280x800', 'page, 1280 x 800'],
  ['1920x1080', 'HD, 1920 x 1080'],
  ['3840x2160', 'UHD, 3840 x 2160'],
  ['8192x4608', 'print, 8192 x 4608'],
  ['2048x2048', 'square, 2048'],
] as const;
/** Of light that is followed, for a pixel: a draft to a final picture. */
const SAMPLES = [32, 128, 512, 2048];
const THUMBNAIL = { width: 640, height: 480 };

/** Pictures of the view at any size: one, all around, or as the asset's picture on the shelf. */
export function StillsDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const stage = useStage((state) => state.stage);
  const backdrop = useChoices((choices) => choices.view.backdrop);
  const lit = useChoices((choices) => choices.view.mode === 'lit');
  const client = useQueryClient();
  const [size, setSize] = useState({ width: 1920, height: 1080 });
  const [format, setFormat] = useState<'png' | 'exr'>('png');
  const [transparent, setTransparent] = useState(false);
  const [samples, setSamples] = useState(0);
  const [frames, setFrames] = useState(36);
  const [doing, setDoing] = useState<{ what: string; share: number } | null>(null);
  const abort = useRef<AbortController | null>(null);
  useEffect(() => () => abort.current?.abort(), []);
  const note = useMemo(
    () => lightNote(stage, lit ? samples : null, backdrop),
    [stage, lit, samples, backdrop],
  );
  const fits = size.width >= 16 && size.height >= 16 && size.width <= MOST_WIDTH && size.height <= MOST_WIDTH;
  const run = async (what: string, job: (options: StillOptions, work: Work) => Promise<void>) => {
    const controller = new AbortController();
    abort.current = controller;
    setDoing({ what, share: 0 });
    try {
      await job(
        { ...size, format, transparent, backdrop, samples: lit ? samples : 0 },
        {
          signal: controller.signal,
          progress: (share) => setDoing({ what, share }),
          note: (text) => toast.warning(text),
        },
      );
    } catch (error) {
      if (!controller.signal.aborted)
        toast.error(`The picture could not be taken: ${error instanceof Error ? error.message : error}`);
    } finally {
      abort.current = null;
      setDoing(null);
    }
  };
  const name = `${view.name}_${size.width}x${size.height}`;
  return (
    <Modal title="Pictures of the view" close={close}>
      <div className="grid gap-3 p-4 text-[12.3px]">
        {!stage && (
          <p className="text-error">The view is folded away; unfold it (V) to take pictures of it.</p>
        )}
        <div className="flex flex-wrap items-center gap-2">
          <ChipSelect
            aria-label="Size"
            value={`${size.width}x${size.height}`}
            onChange={(event) => {
              const [width, height] = event.target.value.split('x').map(Number);
              if (width && height) setSize({ width, height });
            }}
          >
            {!SIZES.some(([key]) => key === `${size.width}x${size.height}`) && (
              <option value={`${size.width}x${size.height}`}>own size</option>
            )}
            {SIZES.map(([key, title]) => (
              <option key={key} value={key}>
                {title}
              </option>
            ))}
          </ChipSelect>
          <SizeField title="Width" value={size.width} set={(width) => setSize({ ...size, width })} />
          <span>x</span>
          <SizeField title="Height" value={size.height} set={(height) => setSize({ ...size, height })} />
          <span className="text-[var(--soft)]">px</span>
        </div>
        {!fits && <p className="text-error">Sides go from 16 to {MOST_WIDTH} pixels.</p>}
        <div className="flex flex-wrap items-center gap-3">
          <Segments
            label="Type"
            value={format}
            options={[
              ['png', 'PNG as shown'],
              ['exr', 'EXR, light'],
            ]}
            pick={setFormat}
          />
          <Segments
            label="Behind"
            value={transparent ? 'clear' : 'backdrop'}
            options={[
              ['backdrop', 'backdrop'],
              ['clear', 'transparent'],
            ]}
            pick={(next) => setTransparent(next === 'clear')}
          />
        </div>
        <div className="flex flex-wrap items-center gap-2">
          <ChipSelect
            aria-label="Light"
            value={lit ? samples : 0}
            disabled={!lit}
            onChange={(event) => setSamples(Number(event.target.value))}
          >
            <option value={0}>light as in the view</option>
            {SAMPLES.map((count) => (
              <option key={count} value={count}>
                path-traced, {count} samples a pixel
              </option>
            ))}
          </ChipSelect>
          <span className="text-[var(--soft)]">{note}</span>
        </div>
        <div className="flex flex-wrap items-center gap-2 border-t border-[var(--line)] pt-3">
          <Button
            main
            disabled={!stage || !fits || doing !== null}
            onClick={() =>
              stage &&
              void run('drawing', async (options, work) =>
                save(await takeStill(stage, options, work), `${name}.${format}`),
              )
            }
          >
            Take a still
          </Button>
          <Button
            disabled={!stage || !fits || doing !== null}
            onClick={() =>
              stage &&
              void run('turning', async (options, work) =>
                save(await takeTurntable(stage, options, frames, work), `${name}_turn.zip`),
              )
            }
          >
            Turntable of
          </Button>
          <SizeField
            title="Frames"
            value={frames}
            set={(next) => setFrames(Math.min(720, Math.max(2, next)))}
          />
          <span className="text-[var(--soft)]">frames, as zip</span>
        </div>
        <div className="flex flex-wrap items-center gap-2">
          <Button
            disabled={!stage || doing !== null}
            onClick={() =>
              stage &&
              void run('drawing', async (options, work) => {
                const png = await takeStill(
                  stage,
                  { ...options, ...THUMBNAIL, format: 'png', transparent: false },
                  work,
                );
                const response = await fetch(`/api/assets/${view.id}/thumbnail`, {
                  method: 'POST',
                  body: png,
                });
                if (!response.ok) throw new Error(`the server answered ${response.status}`);
                await client.invalidateQueries({ queryKey: ['shelf'] });
                toast.success('The shelf shows this picture now.');
              })
            }
          >
            Use as the shelf's picture
          </Button>
          <Button
            onClick={async () => {
              await fetch(`/api/assets/${view.id}/thumbnail`, { method: 'DELETE' });
              toast('The shelf draws its own picture again.');
            }}
          >
            Draw it again
          </Button>
        </div>
        {doing && (
          <div className="flex items-center gap-2">
            <span className="w-16">{doing.what}</span>
            <progress
              className="progress progress-accent min-w-0 flex-1"
              value={doing.share}
              max={1}
              aria-label="Progress of the picture"
            />
            <Button onClick={() => abort.current?.abort()}>Cancel</Button>
          </div>
        )}
      </div>
    </Modal>
  );
}

/** What is to be known before a picture is path-traced; `samples` is null where there is no light. */
function lightNote(stage: Stage | null, samples: number | null, backdrop: Backdrop): string {
  if (samples === null) return 'One channel alone has no light.';
  if (samples === 0 || !stage) return '';
  const notes = [];
  if (drawsInSoftware(stage.gl)) notes.push('no graphics card draws here: this takes minutes');
  if (backdrop === 'surroundings') notes.push('no shadow on the ground before surroundings');
  return notes.join('; ');
}

function SizeField({ title, value, set }: { title: string; value: number; set: (value: number) => void }) {
  return (
    <Field
      className="w-16 font-mono text-[11.5px]"
      aria-label={title}
      inputMode="numeric"
      value={value}
      onChange={(event) => set(Math.max(0, Math.round(Number(event.target.value)) || 0))}
    />
  );
}

function save(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
