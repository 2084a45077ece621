import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { AskField, AskPage } from '../api/types';
import css from './ask.module.css';
import { presets, type Typed, wrong } from './record';
import type { Result } from './useAsking';

const KEPT = 10;

/** What was typed last on a page is remembered by the browser, for the next time. */
function useLast(path: string) {
  const key = `asked:${path}`;
  const [last, setLast] = useState<Typed[]>(() => {
    try {
      return JSON.parse(localStorage.getItem(key) ?? '[]') as Typed[];
    } catch {
      return [];
    }
  });
  const keep = (all: Typed[]) => {
    setLast(all);
    try {
      localStorage.setItem(key, JSON.stringify(all));
    } catch {
      // it is remembered until the page is left
    }
  };
  return {
    last,
    add: (typed: Typed) => {
      const same = JSON.stringify(typed);
      keep([typed, ...last.filter((t) => JSON.stringify(t) !== same)].slice(0, KEPT));
    },
    forget: () => keep([]),
  };
}

/** One record, typed. */
export function AskForm({
  page,
  busy,
  ask,
}: {
  page: AskPage;
  busy: boolean;
  ask: (rows: Typed[]) => Promise<Result[]>;
}) {
  const [typed, setTyped] = useState<Typed>(() => presets(page.fields));
  const [problems, setProblems] = useState<Record<string, string>>({});
  const { last, add, forget } = useLast(page.path);
  const shown = page.fields.filter((f) => !f.hidden);
  const change = (name: string, text: string) => {
    setTyped((now) => ({ ...now, [name]: text }));
    setProblems(({ [name]: _, ...others }) => others);
  };
  const submit = async () => {
    const its = wrong(page.fields, typed);
    setProblems(its);
    if (Object.keys(its).length > 0) {
      document.getElementById(`ask-${Object.keys(its)[0]}`)?.focus();
      return;
    }
    add(typed);
    const [end] = await ask([typed]);
    setProblems(end?.wrong ?? {});
    // the next is typed over this one
    const first = document.getElementById(`ask-${shown[0]?.name}`);
    first?.focus();
    if (first instanceof HTMLInputElement) first.select();
  };
  return (
    <form
      className={css.form}
      aria-label="What you ask"
      onSubmit={(e) => {
        e.preventDefault();
        void submit();
      }}
    >
      {last.length > 0 && (
        <div className="row">
          <Select
            className="grow"
            aria-label="Typed before"
            placeholder="typed before"
            value={null}
            onChange={(at: number) => {
              setTyped({ ...presets(page.fields), ...last[at] });
              setProblems({});
            }}
            options={last.map((t, i) => ({
              value: i,
              label: shown
                .map((f) => t[f.name])
                .filter(Boolean)
                .join(' · '),
            }))}
          />
          <Button type="text" onClick={forget}>
            Forget
          </Button>
        </div>
      )}
      {shown.map((f, i) => (
        <div key={f.name} className={css.field}>
          <label htmlFor={`ask-${f.name}`}>
            {f.label}
            {f.required && (
              <span className="bad" title="must be there">
                {' '}
                *
              </span>
            )}
          </label>
          <Entry field={f} first={i === 0} value={typed[f.name] ?? ''} change={(t) => change(f.name, t)} />
          {problems[f.name] ? (
            <span className="bad" role="alert">
              {f.label} {problems[f.name]}
            </span>
          ) : (
            f.help && <span className="dim">{f.help}</span>
          )}
        </div>
      ))}
      <div className="row">
        <Button type="primary" htmlType="submit" loading={busy}>
          Ask
        </Button>
        <Button
          onClick={() => {
            setTyped(presets(page.fields));
            setProblems({});
          }}
        >
          Empty
        </Button>
        {shown.some((f) => f.required) && <span className="dim">* must be there</span>}
      </div>
    </form>
  );
}

const KINDS: Partial<Record<AskField['type'], string>> = {
  date: 'date',
  datetime: 'datetime-local',
  time: 'time',
};

function Entry({
  field,
  first,
  value,
  change,
}: {
  field: AskField;
  first: boolean;
  value: string;
  change: (text: string) => void;
}) {
  const id = `ask-${field.name}`;
  if (field.picks || field.type === 'boolean') {
    const options = field.picks ?? [
      { value: 'true', label: 'yes' },
      { value: 'false', label: 'no' },
    ];
    return (
      <Select
        id={id}
        allowClear
        autoFocus={first}
        showSearch
        optionFilterProp="label"
        placeholder={field.cut ? 'more than are shown here: type to find' : 'pick one'}
        value={value || undefined}
        onChange={(v: string | undefined) => change(v ?? '')}
        options={options}
      />
    );
  }
  const number = field.type === 'integer' || field.type === 'decimal';
  return (
    <Input
      id={id}
      autoFocus={first}
      autoComplete="off"
      type={KINDS[field.type] ?? 'text'}
      step={field.type === 'time' || field.type === 'datetime' ? 1 : undefined}
      inputMode={number ? 'decimal' : undefined}
      value={value}
      onChange={(e) => change(e.target.value)}
    />
  );
}
