import { useQuery } from '@tanstack/react-query';
import { Input, type InputRef } from 'antd';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import type { components } from '../api/schema';
import { NEXT_OF } from '../api/flow';
import type { SourceGroup } from '../api/types';
import { NONE } from '../shared/none';
import { type Completion, Completions } from './Completions';

type Help = Required<components['schemas']['Function']>;

/** The functions expressions offer, with what they give. */
export function useFunctions(): Help[] {
  const list = useQuery({
    queryKey: ['expression-functions'],
    queryFn: () => api.get<Help[]>('/expression-functions'),
    staleTime: Infinity,
  });
  return list.data ?? NONE;
}

/** The cell while it is edited: completes fields, variables, allowed values and functions, with their documentation. */
export function FillCell({
  start,
  sources,
  values,
  series,
  onKeep,
  onLeave,
  onText,
}: {
  start: string;
  sources: SourceGroup[];
  values: string[];
  /** The series whose next number it can be. */
  series: string[];
  onKeep: (text: string) => void;
  onLeave: () => void;
  onText: (text: string) => void;
}) {
  const [text, setText] = useState(start);
  const [open, setOpen] = useState(true);
  // Enter takes an entry of the list only when somebody went there
  const [at, setAt] = useState(-1);
  const functions = useFunctions();
  const first = useRef(start);
  const left = useRef(false);
  const field = useRef<InputRef>(null);
  useEffect(() => setText(start), [start]);
  const token = /[$\p{L}\p{N}_:./@-]*$/u.exec(text)?.[0] ?? '';
  const before = text.slice(0, text.length - token.length);
  const put = (next: string) => {
    setText(next);
    onText(next);
    setAt(-1);
    setOpen(true);
  };
  const leave = (end: () => void) => {
    // the field is taken away by this: its blur says nothing more
    left.current = true;
    end();
  };
  const take = (value: string) => (before || value.endsWith('(') ? put(value) : leave(() => onKeep(value)));
  const entries = useMemo<Completion[]>(() => {
    const wanted = token.toLowerCase();
    // behind a finished text or path there is nothing to complete
    if (!wanted && before && !/[(,|=<>+\s-]$/.test(before)) return [];
    const fits = (name: string) => !wanted || name.toLowerCase().includes(wanted);
    const fields = sources.flatMap((g) =>
      g.fields
        .filter((f) => fits(f.wire))
        .map((f) => ({ value: before + f.wire, name: f.wire, hint: f.value, detail: f.type })),
    );
    const allowed = before
      ? []
      : values
          .filter(fits)
          .map((v) => ({ value: `"${v}"`, name: `"${v}"`, hint: 'allowed value', detail: '' }));
    const drawn = before
      ? []
      : series
          .map((name) => NEXT_OF + name)
          .filter(fits)
          .map((value) => ({ value, name: value, hint: 'the next number of the series', detail: '' }));
    const offered =
      wanted.length > 0 && !wanted.startsWith('$')
        ? functions
            .filter((f) => f.name.startsWith(wanted))
            .map((f) => ({
              value: `${before}${f.name}(`,
              name: f.signature,
              hint: f.documentation,
              detail: '',
            }))
        : [];
    const starting = fields.filter((f) => f.name.toLowerCase().startsWith(wanted));
    return [
      ...allowed,
      ...drawn,
      ...offered,
      ...starting,
      ...fields.filter((f) => !starting.includes(f)),
    ].slice(0, 40);
  }, [token, before, sources, values, series, functions]);
  const shown = open && entries.length > 0;
  const press = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === 'Escape') leave(onLeave);
    else if (e.key === 'Enter' && shown && at >= 0) take(entries[at].value);
    else if (e.key === 'Enter') {
      const typed = e.currentTarget.value;
      leave(() => onKeep(typed));
    } else if (shown && e.key === 'ArrowDown') setAt(Math.min(at + 1, entries.length - 1));
    else if (shown && e.key === 'ArrowUp') setAt(Math.max(at - 1, -1));
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <>
      <Input
        ref={field}
        autoFocus
        size="small"
        className="mono"
        role="combobox"
        aria-label="Fill"
        aria-expanded={shown}
        placeholder='$field, "text" or an expression'
        value={text}
        onChange={(e) => put(e.target.value)}
        onKeyDown={press}
        onBlur={() => {
          if (!left.current) leave(() => (text === first.current ? onLeave() : onKeep(text)));
        }}
      />
      {shown && <Completions field={field} entries={entries} at={at} onTake={take} />}
    </>
  );
}
