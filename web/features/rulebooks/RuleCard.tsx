'use client';

import type { Action, Rule } from '@kinkajou/core/rules/rulebook';
import { ArrowDown, ArrowUp, Copy, Plus, Trash2, X } from 'lucide-react';
import { useState } from 'react';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { Field, SelectField } from '@/ui/Field';
import { IconButton } from '@/ui/IconButton';
import {
  ACTION_WORDS,
  type ActionField,
  CONDITION_WORDS,
  type Condition,
  fieldText,
  patternsOf,
  patternsText,
  thenInWords,
  whenInWords,
  withField,
} from './ruleWords.ts';

interface RuleCardProps {
  rule: Rule;
  open: boolean;
  toggle(): void;
  change(rule: Rule): void;
  /** Null where it is first or last. */
  up: (() => void) | null;
  down: (() => void) | null;
  copy(): void;
  remove(): void;
}

/** A rule as sentences; open, with fields. */
export function RuleCard({ rule, open, toggle, change, up, down, copy, remove }: RuleCardProps) {
  return (
    <li className="rounded-md border border-[var(--line)] bg-base-100">
      <div className="flex items-start gap-2 px-3 py-2">
        <button
          type="button"
          className="min-w-0 flex-1 cursor-pointer text-left"
          aria-expanded={open}
          onClick={toggle}
        >
          <h3 className="text-[13px] font-semibold">{rule.name}</h3>
          <p className="text-[12px] break-words text-[var(--soft)]">
            {whenInWords(rule.when)}: {thenInWords(rule.then)}.
          </p>
        </button>
        <IconButton label={`Earlier: ${rule.name}`} disabled={!up} onClick={up ?? undefined}>
          <ArrowUp size={13} />
        </IconButton>
        <IconButton label={`Later: ${rule.name}`} disabled={!down} onClick={down ?? undefined}>
          <ArrowDown size={13} />
        </IconButton>
        <IconButton label={`Copy: ${rule.name}`} onClick={copy}>
          <Copy size={13} />
        </IconButton>
        <IconButton label={`Remove: ${rule.name}`} onClick={remove}>
          <Trash2 size={13} />
        </IconButton>
      </div>
      {open && (
        <div className="grid gap-3 border-t border-[var(--line-soft)] px-3 py-2.5">
          <div className="grid gap-1.5" style={{ gridTemplateColumns: '70px minmax(0, 1fr)' }}>
            <label className="contents">
              <span className="self-center text-[12px] text-[var(--soft)]">Name</span>
              <Field value={rule.name} onChange={(event) => change({ ...rule, name: event.target.value })} />
            </label>
            <label className="contents">
              <span className="self-center text-[12px] text-[var(--soft)]">Reason</span>
              <Field
                value={rule.reason ?? ''}
                placeholder="what receipts say of it"
                onChange={(event) => change({ ...rule, reason: event.target.value })}
              />
            </label>
          </div>
          <ConditionRows rule={rule} change={change} />
          <ActionRows rule={rule} change={change} />
        </div>
      )}
    </li>
  );
}

const HEAD = 'text-[11.5px] font-semibold text-[var(--soft)]';

function ConditionRows({ rule, change }: Pick<RuleCardProps, 'rule' | 'change'>) {
  const { when } = rule;
  const names = Object.keys(CONDITION_WORDS) as Condition[];
  const used = names.filter((name) => when[name] !== undefined);
  const without = (name: Condition) => {
    const { [name]: _, ...rest } = when;
    return rest;
  };
  return (
    <section aria-label="Conditions" className="grid gap-1.5">
      <h4 className={HEAD}>Where all of this holds</h4>
      {used.map((name) => (
        <div key={name} className="flex items-center gap-2">
          <span className="w-[176px] shrink-0 text-[12.3px]">{CONDITION_WORDS[name]}</span>
          <TypedField
            wide
            label={CONDITION_WORDS[name]}
            value={patternsText(when[name] ?? '')}
            take={(typed) => change({ ...rule, when: { ...when, [name]: patternsOf(typed) } })}
          />
          <IconButton
            label={`Without: ${CONDITION_WORDS[name]}`}
            onClick={() => change({ ...rule, when: without(name) })}
          >
            <X size={13} />
          </IconButton>
        </div>
      ))}
      <ChipSelect
        className="w-[176px]"
        aria-label="Add a condition"
        value=""
        onChange={(event) =>
          event.target.value &&
          change({
            ...rule,
            when: { ...when, [event.target.value]: FIRST_PATTERNS[event.target.value] ?? '*' },
          })
        }
      >
        <option value="">and ...</option>
        {names
          .filter((name) => !used.includes(name))
          .map((name) => (
            <option key={name} value={name}>
              {CONDITION_WORDS[name]}
            </option>
          ))}
      </ChipSelect>
    </section>
  );
}

/** What a fresh condition begins with, where a star is no pattern for it. */
const FIRST_PATTERNS: Record<string, string> = { confidence: '>=0.9', size: '>20' };

function ActionRows({ rule, change }: Pick<RuleCardProps, 'rule' | 'change'>) {
  // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
  const put = (actions: Action[]) => change({ ...rule, then: actions });
  return (
    <section aria-label="Actions" className="grid gap-1.5">
      <h4 className={HEAD}>do this, in order</h4>
      {rule.then.map((action, i) => (
        <div key={i} className="flex flex-wrap items-center gap-2">
          <SelectField
            className="w-[176px] shrink-0"
            aria-label="Action"
            value={action.do}
            onChange={(event) =>
              put(rule.then.map((other, k) => (k === i ? ({ do: event.target.value } as Action) : other)))
            }
          >
            {Object.entries(ACTION_WORDS).map(([name, { label }]) => (
              <option key={name} value={name}>
                {label}
              </option>
            ))}
          </SelectField>
          {ACTION_WORDS[action.do].fields.map((field) => {
            const label = field.label || ACTION_WORDS[action.do].label;
            const take = (typed: string) =>
              put(rule.then.map((other, k) => (k === i ? withField(other, field, typed) : other)));
            const value = fieldText(action, field);
            return (
              <span key={`${action.do} ${field.name}`} className="flex items-center gap-1.5 text-[12.3px]">
                {field.label}
                <FieldInput field={field} label={label} value={value} take={take} />
              </span>
            );
          })}
          <IconButton
            label={`Without: ${ACTION_WORDS[action.do].label}`}
            disabled={rule.then.length === 1}
            onClick={() => put(rule.then.filter((_, k) => k !== i))}
          >
            <X size={13} />
          </IconButton>
        </div>
      ))}
      <Button className="justify-self-start" onClick={() => put([...rule.then, { do: 'ask' }])}>
        <Plus size={12} /> and then
      </Button>
    </section>
  );
}

/** Keeps what is typed until it is left, so that half a number or a comma is no fault. */
function TypedField({
  label,
  value,
  take,
  wide = false,
}: {
  label: string;
  value: string;
  take(typed: string): void;
  wide?: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <Field
      className={wide ? 'max-w-[440px] flex-1' : 'w-44'}
      aria-label={label}
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => {
        if (typed !== null) take(typed);
        setTyped(null);
      }}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}

interface FieldInputProps {
  field: ActionField;
  label: string;
  value: string;
  take: (typed: string) => void;
}

/** Asks for one field of an action, by the kind of its value. */
function FieldInput({ field, label, value, take }: FieldInputProps) {
  if (field.kind === 'flag')
    return (
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={value === 'true'}
        onChange={(event) => take(event.target.checked ? 'true' : '')}
      />
    );
  if (!field.options) return <TypedField label={label} value={value} take={take} />;
  return (
    <SelectField
      className="w-36"
      aria-label={label}
      value={value}
      onChange={(event) => take(event.target.value)}
    >
      <option value="">choose</option>
      {field.options.map((option) => (
        <option key={option}>{option}</option>
      ))}
    </SelectField>
  );
}
