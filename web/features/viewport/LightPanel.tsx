'use client';

import { ENVIRONMENTS } from '@kinkajou/core/maps/environments';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { ChevronDown, ChevronUp, Trash2, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import type { EnvironmentRow } from '@/server/services/environments';
import { api } from '@/ui/api';
import { Chip, ChipSelect } from '@/ui/Chip';
import {
  BACKDROPS,
  type Backdrop,
  LAMPS,
  type LampName,
  useChoices,
  VIEW_TRANSFORMS,
  type ViewTransform,
} from '@/ui/choices';
import { IconButton } from '@/ui/IconButton';
import { CAMERA_PRESETS, type CameraPreset, takePreset } from './frame.ts';

const TRANSFORM_TITLES: Record<ViewTransform, string> = {
  plain: 'plain sRGB',
  neutral: 'neutral curve',
  aces: 'ACES curve',
};

/** Light, backdrop, lens and the view's transform; all of it is remembered. */
export function LightPanel() {
  const view = useChoices((choices) => choices.view);
  const { setView, setLamp } = useChoices();
  const [open, setOpen] = useState(false);
  const { turn, exposure, lamps, ground } = view;
  return (
    <div
      className="grid max-h-[44vh] gap-1.5 overflow-auto border-t border-[var(--line)] bg-base-200 px-3 py-2 text-[12.3px]"
      role="group"
      aria-label="Light"
    >
      <div className="flex items-center gap-2">
        <EnvironmentSelect />
        <Slide
          title="Turn of the light in degrees"
          value={turn}
          range={[0, 360]}
          step={1}
          set={(next) => setView({ turn: next })}
        />
        <span className="w-11 text-right font-mono text-[11.5px]">{turn}°</span>
        <IconButton
          label={open ? 'Fold the light' : 'More about the light'}
          expanded={open}
          onClick={() => setOpen(!open)}
        >
          {open ? <ChevronDown size={14} /> : <ChevronUp size={14} />}
        </IconButton>
      </div>
      <div className="flex items-center gap-1.5">
        <span className="w-[66px] shrink-0 text-[var(--soft)]">Exposure</span>
        <Slide
          title="Exposure in stops"
          value={exposure}
          range={[-3, 3]}
          step={0.1}
          set={(next) => setView({ exposure: next })}
        />
        <span className="w-9 shrink-0 text-right font-mono text-[11.5px]">
          {exposure >= 0 ? `+${exposure.toFixed(1)}` : exposure.toFixed(1)}
        </span>
        {LAMPS.map((name) => (
          <Chip
            key={name}
            aria-pressed={lamps[name].on}
            onClick={() => setLamp(name, { on: !lamps[name].on })}
          >
            {name}
          </Chip>
        ))}
        <Chip aria-pressed={ground} onClick={() => setView({ ground: !ground })}>
          ground
        </Chip>
      </div>
      {open && (
        <>
          <div className="flex items-center gap-2">
            <Chip
              aria-pressed={view.environmentOn}
              onClick={() => setView({ environmentOn: !view.environmentOn })}
            >
              all round
            </Chip>
            <Slide
              title="Strength of the surroundings"
              value={view.strength}
              range={[0, 3]}
              step={0.05}
              set={(strength) => setView({ strength })}
            />
            <span className="w-9 text-right font-mono text-[11.5px]">{view.strength.toFixed(2)}</span>
            <ChipSelect
              aria-label="Backdrop"
              value={view.backdrop}
              onChange={(event) => setView({ backdrop: event.target.value as Backdrop })}
            >
              {BACKDROPS.map((key) => (
                <option key={key} value={key}>
                  {key}
                </option>
              ))}
            </ChipSelect>
          </div>
          {LAMPS.map((name) => lamps[name].on && <LampRow key={name} name={name} />)}
          <div className="flex items-center gap-2">
            <Chip
              aria-pressed={view.fitted}
              title="As bright as in the studio, whatever the light"
              onClick={() => setView({ fitted: !view.fitted })}
            >
              fit exposure
            </Chip>
            <ChipSelect
              aria-label="View transform"
              value={view.transform}
              onChange={(event) => setView({ transform: event.target.value as ViewTransform })}
            >
              {VIEW_TRANSFORMS.map((key) => (
                <option key={key} value={key}>
                  {TRANSFORM_TITLES[key]}
                </option>
              ))}
            </ChipSelect>
            <ChipSelect
              aria-label="Camera"
              value=""
              onChange={(event) => {
                if (event.target.value) takePreset(event.target.value as CameraPreset);
                event.currentTarget.blur();
              }}
            >
              <option value="">Camera ...</option>
              {CAMERA_PRESETS.map((key) => (
                <option key={key} value={key}>
                  {key}
                </option>
              ))}
            </ChipSelect>
            <Slide
              title="Focal length in millimetres"
              value={view.focal}
              range={[18, 135]}
              step={1}
              set={(focal) => setView({ focal })}
            />
            <span className="w-12 text-right font-mono text-[11.5px]">{view.focal} mm</span>
          </div>
        </>
      )}
    </div>
  );
}

function LampRow({ name }: { name: LampName }) {
  const { strength, angle, softness } = useChoices((choices) => choices.view.lamps[name]);
  const setLamp = useChoices((choices) => choices.setLamp);
  const figure = (text: string) => (
    <span className="w-9 shrink-0 text-right font-mono text-[11px]">{text}</span>
  );
  const title = (part: string) => `${part} of the ${name} light`;
  return (
    <div className="flex items-center gap-1.5">
      <span className="w-8 shrink-0 text-[var(--soft)]">{name}</span>
      <Slide
        title={title('Strength')}
        value={strength}
        range={[0, 4]}
        step={0.05}
        set={(next) => setLamp(name, { strength: next })}
      />
      {figure(strength.toFixed(1))}
      <Slide
        title={title('Angle')}
        value={angle}
        range={[-180, 220]}
        step={1}
        set={(next) => setLamp(name, { angle: next })}
      />
      {figure(`${angle}°`)}
      <Slide
        title={title('Softness')}
        value={softness}
        range={[0, 1]}
        step={0.05}
        set={(next) => setLamp(name, { softness: next })}
      />
      {figure(`${Math.round(softness * 100)}%`)}
    </div>
  );
}

function Slide({
  title,
  value,
  range,
  step,
  set,
}: {
  title: string;
  value: number;
  range: readonly [number, number];
  step: number;
  set: (value: number) => void;
}) {
  return (
    <input
      type="range"
      className="range range-xs range-primary min-w-0 flex-1"
      min={range[0]}
      max={range[1]}
      step={step}
      value={value}
      onChange={(event) => set(Number(event.target.value))}
      aria-label={title}
      title={title}
    />
  );
}

const KEY = ['environments'];

/** Computed environments, uploaded ones, and the way to upload one. */
function EnvironmentSelect() {
  const environment = useChoices((choices) => choices.view.environment);
  const setView = useChoices((choices) => choices.setView);
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const list =
    useQuery({ queryKey: KEY, queryFn: () => api<{ environments: EnvironmentRow[] }>('/api/environments') })
      .data?.environments ?? [];
  const upload = useMutation({
    async mutationFn(file: File) {
      const response = await fetch(`/api/environments?name=${encodeURIComponent(file.name)}`, {
        method: 'POST',
        body: file,
      });
      const answer = await response.json();
      if (!response.ok) throw new Error(answer.error?.text ?? `The server answered ${response.status}.`);
      return answer as EnvironmentRow;
    },
    onSuccess(row) {
      void client.invalidateQueries({ queryKey: KEY });
      setView({ environment: keyOf(row), environmentName: row.name });
    },
    onError: (error) => toast.error(error.message),
  });
  const chosen = list.find((row) => keyOf(row) === environment);
  const remove = useMutation({
    mutationFn: (id: number) => api(`/api/environments/${id}`, { method: 'DELETE' }),
    onSuccess() {
      setView({ environment: 'studio', environmentName: '' });
      void client.invalidateQueries({ queryKey: KEY });
    },
    onError: (error) => toast.error(error.message),
  });
  const take = (key: string) =>
    setView({ environment: key, environmentName: list.find((row) => keyOf(row) === key)?.name ?? '' });
  return (
    <>
      <ChipSelect
        className="w-[98px] shrink-0"
        aria-label="Environment"
        value={environment}
        onChange={(event) => take(event.target.value)}
      >
        {Object.entries(ENVIRONMENTS).map(([key, { title }]) => (
          <option key={key} value={key}>
            {title}
          </option>
        ))}
        {list.map((row) => (
          <option key={row.id} value={keyOf(row)}>
            {row.name}
          </option>
        ))}
        {environment.startsWith('file:') && !chosen && <option value={environment}>uploaded</option>}
      </ChipSelect>
      <IconButton label="Upload an HDR or EXR environment" onClick={() => input.current?.click()}>
        <Upload size={13} />
      </IconButton>
      {chosen && (
        <IconButton label={`Remove ${chosen.name}`} onClick={() => remove.mutate(chosen.id)}>
          <Trash2 size={13} />
        </IconButton>
      )}
      <input
        ref={input}
        type="file"
        accept=".hdr,.exr"
        className="hidden"
        data-testid="environment-file"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) upload.mutate(file);
          event.target.value = '';
        }}
      />
    </>
  );
}

function keyOf({ sha256, type }: EnvironmentRow): string {
  return `file:${sha256}.${type}`;
}
