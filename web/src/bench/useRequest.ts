import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client';
import { type Fill, freeId } from '../api/flow';
import type { BenchRequest } from '../api/types';

const WAIT = 250;
const EMPTY: BenchRequest = { fills: [], text: '', fields: [], problems: [], line: 0 };

/** One request as sheet and as text: whichever is edited, the other follows; problems are told of both. */
export function useRequest(at: { contract: number; service?: string; port?: string; operation?: string; endpoint?: string }) {
  const [request, setRequest] = useState<BenchRequest>(EMPTY);
  const timer = useRef<number>(undefined);
  const turn = useRef(0);
  useEffect(() => () => window.clearTimeout(timer.current), []);

  const follow = (side: 'text' | 'fills', next: BenchRequest, wait: number) => {
    const mine = ++turn.current;
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => {
      const draft = side === 'text' ? { ...at, fills: next.fills } : { ...at, text: next.text };
      void api.post<BenchRequest>(`/bench/${side}`, draft).then((both) => {
        // what was typed meanwhile wins over an older answer
        if (mine !== turn.current) return;
        setRequest(side === 'text' ? both : { ...both, text: next.text, fills: both.line > 0 ? next.fills : both.fills });
      });
    }, wait);
  };
  const setFills = (fills: Fill[]) => {
    const next = { ...request, fills };
    setRequest(next);
    follow('text', next, WAIT);
  };
  return {
    request,
    setFills,
    setText: (text: string, wait = WAIT) => {
      const next = { ...request, text };
      setRequest(next);
      follow('fills', next, wait);
    },
    setValue: (path: string, value: string) => {
      const rest = request.fills.filter((f) => f.target !== path);
      setFills(value === '' ? rest : [...rest, { id: freeId(rest, 'c'), target: path, constant: value }]);
    },
    setPicks: (before: string[], after: string[]) => {
      const gone = before.filter((p) => !after.includes(p));
      const kept = request.fills.filter((f) => !gone.some((p) => f.target === p || f.target.startsWith(`${p}/`) || f.target.startsWith(`${p}~`)));
      const added = after.filter((p) => !before.includes(p) && !kept.some((f) => f.target === p));
      setFills(added.reduce<Fill[]>((all, target) => [...all, { id: freeId(all, 'c'), target, pick: true }], kept));
    },
  };
}
