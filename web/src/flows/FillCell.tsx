import { useQuery } from '@tanstack/react-query';
import { AutoComplete } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../api/client';
import type { components } from '../api/schema';
import type { SourceGroup } from '../api/types';

type Help = Required<components['schemas']['Function']>;

/** The functions expressions offer, with what they give. */
export function useFunctions(): Help[] {
  const list = useQuery({ queryKey: ['expression-functions'], queryFn: () => api.get<Help[]>('/expression-functions'), staleTime: Infinity });
  return list.data ?? [];
}

/** The cell while it is edited: completes field names, variables, allowed values and functions with their documentation. */
export function FillCell({
  start, sources, values, onKeep, onLeave, onText,
}: { start: string; sources: SourceGroup[]; values: string[]; onKeep: (text: string) => void; onLeave: () => void; onText: (text: string) => void }) {
  const [text, setText] = useState(start);
  const [open, setOpen] = useState(true);
  const functions = useFunctions();
  const first = useRef(start);
  // Enter takes an entry of the list only when somebody went there
  const moved = useRef(false);
  useEffect(() => setText(start), [start]);
  const token = /[$\p{L}\p{N}_:./@-]*$/u.exec(text)?.[0] ?? '';
  const before = text.slice(0, text.length - token.length);
  const put = (next: string) => {
    setText(next);
    onText(next);
    moved.current = false;
  };
  const options = useMemo(() => {
    const wanted = token.toLowerCase();
    // behind a finished text or path there is nothing to complete
    if (!wanted && before && !/[(,|=<>+\s-]$/.test(before)) return [];
    const fits = (name: string) => !wanted || name.toLowerCase().includes(wanted);
    const fields = sources.flatMap((g) => g.fields.filter((f) => fits(f.wire)).map((f) => ({ value: before + f.wire, name: f.wire, hint: f.value, detail: f.type })));
    const allowed = before ? [] : values.filter(fits).map((v) => ({ value: `"${v}"`, name: `"${v}"`, hint: 'allowed value', detail: '' }));
    const offered = wanted.length > 0 && !wanted.startsWith('$')
      ? functions.filter((f) => f.name.startsWith(wanted)).map((f) => ({ value: `${before}${f.name}(`, name: f.signature, hint: f.documentation, detail: '' }))
      : [];
    const starting = fields.filter((f) => f.name.toLowerCase().startsWith(wanted));
    return [...allowed, ...offered, ...starting, ...fields.filter((f) => !starting.includes(f))].slice(0, 40).map((o) => ({
      value: o.value,
      label: (
        <span className="row" style={{ gap: 12 }}>
          <span className="mono" style={{ whiteSpace: 'nowrap' }}>{o.name}</span>
          {o.detail && <span className="faint" style={{ fontSize: 11 }}>{o.detail}</span>}
          <span className="faint clip grow" style={{ textAlign: 'right' }}>{o.hint}</span>
        </span>
      ),
    }));
  }, [token, before, sources, values, functions]);
  return (
    <AutoComplete
      autoFocus
      size="small"
      className="mono"
      style={{ width: '100%' }}
      aria-label="Fill"
      placeholder='$field, "text" or an expression'
      value={text}
      open={open && options.length > 0}
      onOpenChange={setOpen}
      defaultActiveFirstOption={false}
      popupMatchSelectWidth={420}
      options={options}
      onChange={(next: string) => {
        put(next);
        setOpen(true);
      }}
      onSelect={(picked: string) => {
        if (!before && !picked.endsWith('(')) onKeep(picked);
      }}
      onBlur={() => (text === first.current ? onLeave() : onKeep(text))}
      onInputKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation();
          onLeave();
        }
        if (e.key === 'ArrowDown' || e.key === 'ArrowUp') moved.current = true;
        if (e.key === 'Enter' && !(moved.current && open && options.length > 0)) {
          e.preventDefault();
          e.stopPropagation();
          onKeep(text);
        }
      }}
    />
  );
}
