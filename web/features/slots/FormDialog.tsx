'use client';

import { formEdits, formMaterials } from '@kinkajou/core/asset/formMaterials';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { useMemo, useState } from 'react';
import { Button } from '@/ui/Button';
import { plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';

/**
 * Sets of the chosen images become materials by their common names, existing ones where the name is there
 * already.
 */
export function FormDialog({ close }: { close: () => void }) {
  const bench = useBench();
  const { view } = bench;
  const { images, set } = useFocus();
  const formed = useMemo(
    () =>
      formMaterials(
        view.detected.filter((map) => images.includes(map.path)),
        view.state.materials,
      ),
    [view, images],
  );
  const [left, setLeft] = useState<string[]>([]);
  const taken = formed.filter(({ name }) => !left.includes(name));
  const apply = () => {
    bench.apply(formEdits(taken, { from: 'hand', detail: 'sets formed materials' }));
    set({ images: [] });
    close();
  };
  return (
    <Modal title={`Materials from ${plural(images.length, 'image')}`} close={close} wide>
      <ul className="max-h-[52vh] overflow-auto p-2">
        {formed.map(({ name, isNew, assignments }) => (
          <li key={name}>
            <label className="flex cursor-pointer items-center gap-3 rounded px-2 py-1.5 hover:bg-base-200">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={!left.includes(name)}
                onChange={() =>
                  setLeft(left.includes(name) ? left.filter((other) => other !== name) : [...left, name])
                }
              />
              <b className="w-44 truncate" title={name}>
                {name}
              </b>
              <span className="w-16 text-[11.5px] text-[var(--soft)]">{isNew ? 'new' : 'is there'}</span>
              <span className="min-w-0 flex-1 truncate text-[12px]">
                {assignments.length === 0
                  ? 'no image says what it is for'
                  : assignments.map((one) => channelTitle(one.channel)).join(', ')}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="flex justify-end border-t border-[var(--line)] p-3">
        <Button main disabled={taken.length === 0 || bench.busy} onClick={apply}>
          Form {plural(taken.length, 'material')}
        </Button>
      </div>
    </Modal>
  );
}
