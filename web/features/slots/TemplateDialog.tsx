'use client';

import { applyTemplate, matchesPattern } from '@kinkajou/core/asset/templates';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { StoredTemplate } from '@/server/services/templates';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';

const KEY = ['templates'];
const SHOWN = 5;

/** Saves the wiring of the focused material, and applies stored wirings to materials by a name pattern. */
export function TemplateDialog({ close }: { close: () => void }) {
  const bench = useBench();
  const { view } = bench;
  const slot = useFocus((state) => state.slot);
  const client = useQueryClient();
  const list = useQuery({
    queryKey: KEY,
    queryFn: () => api<{ templates: StoredTemplate[] }>('/api/templates'),
  });
  const [name, setName] = useState(slot?.material ?? '');
  const [chosen, setChosen] = useState<number | null>(null);
  const [pattern, setPattern] = useState('*');
  const change = useMutation({
    mutationFn: (call: { path: string; method: string; body?: unknown }) =>
      api<{ templates: StoredTemplate[] }>(call.path, call),
    onSuccess: (answer) => client.setQueryData(KEY, answer),
    onError: (error) => toast.error(error.message),
  });
  const templates = list.data?.templates ?? [];
  const template = templates.find((one) => one.id === chosen) ?? templates[0];
  const targets = useMemo(
    () => view.state.materials.filter((material) => matchesPattern(pattern, material.key)),
    [view.state, pattern],
  );
  const result = useMemo(
    () =>
      template &&
      applyTemplate(
        template.template,
        targets,
        { state: view.state, detected: view.detected },
        { from: 'rule', detail: `template ${template.name}` },
      ),
    [template, targets, view],
  );
  return (
    <Modal title="Slot templates" close={close} wide>
      <div className="grid gap-4 p-4">
        <form
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (slot)
              change.mutate({
                path: '/api/templates',
                method: 'POST',
                body: { assetId: view.id, material: slot.material, name },
              });
          }}
        >
          <label className="grid flex-1 gap-1 text-[12.3px]">
            <span className="font-semibold">
              Save the slots of {slot?.material ?? 'the focused material'} as
            </span>
            <Field
              aria-label="Name of the template"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <Button type="submit" disabled={!slot || name.trim() === '' || change.isPending}>
            Save
          </Button>
        </form>
        {templates.length === 0 ? (
          <p className="py-4 text-center text-[var(--soft)]">
            No template yet. Wire one material as you want it, save it here, and apply it to others.
          </p>
        ) : (
          <>
            <ul className="grid gap-1" aria-label="Templates">
              {templates.map((one) => (
                <li key={one.id} className="flex items-center gap-2">
                  <button
                    type="button"
                    aria-pressed={one === template}
                    className={`min-w-0 flex-1 cursor-pointer rounded-[5px] border px-2 py-1.5 text-left ${one === template ? 'border-accent bg-[var(--honey-wash)]' : 'border-[var(--line)]'}`}
                    onClick={() => setChosen(one.id)}
                  >
                    <b>{one.name}</b>{' '}
                    <span className="text-[11.5px] text-[var(--soft)]">
                      {one.template.slots.map((each) => channelTitle(each.channel)).join(', ')}
                    </span>
                  </button>
                  <Button
                    aria-label={`Remove ${one.name}`}
                    onClick={() => change.mutate({ path: `/api/templates/${one.id}`, method: 'DELETE' })}
                  >
                    <Trash2 size={13} />
                  </Button>
                </li>
              ))}
            </ul>
            <label className="grid gap-1 text-[12.3px]">
              <span className="font-semibold">Apply to materials named</span>
              <Field
                aria-label="Name pattern"
                value={pattern}
                placeholder="hull_*"
                onChange={(event) => setPattern(event.target.value)}
              />
            </label>
            <p className="text-[12.3px] text-[var(--soft)]">
              {plural(targets.length, 'material')},{' '}
              {plural(result?.edit?.kind === 'pasteSlots' ? result.edit.slots.length : 0, 'slot')} filled
              {result && result.unresolved.length > 0 && (
                <>
                  ; no image for {result.unresolved.slice(0, SHOWN).join('; ')}
                  {result.unresolved.length > SHOWN && ` and ${result.unresolved.length - SHOWN} more`}
                </>
              )}
              .
            </p>
            <Button
              main
              className="w-fit"
              disabled={!result?.edit || bench.busy}
              onClick={() => {
                if (result?.edit) bench.apply([result.edit]);
                close();
              }}
            >
              Apply {template?.name}
            </Button>
          </>
        )}
      </div>
    </Modal>
  );
}
