import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client';
import { type Fill, freeId } from '../api/flow';
import type { BenchRequest } from '../api/types';

const WAIT = 250;
const EMPTY: BenchRequest = { fills: [], text: '', fields: [], problems: [], line: 0 };

/** One request as sheet and as text: whichever is edited, the other follows; problems are told of both. */
export function useRequest(at: {
  contract: number;
  service?: string;
  port?: string;
  operation?: string;
  endpoint?: string;
}) {
  const [request, setRequest] = useState<BenchRequest>(EMPTY);
  const timer = useRef<number>(undefined);
  const waiting = useRef<{ side: 'text' | 'fills'; next: BenchRequest }>(undefined);
  const going = useRef<{ side: 'text' | 'fills'; both: Promise<BenchRequest> }>(undefined);
  const turn = useRef(0);
  useEffect(() => () => window.clearTimeout(timer.current), []);

  const start = ({ side, next }: { side: 'text' | 'fills'; next: BenchRequest }) => {
    const mine = turn.current;
    waiting.current = undefined;
    const draft = side === 'text' ? { ...at, fills: next.fills } : { ...at, text: next.text };
    const both = api.post<BenchRequest>(`/bench/${side}`, draft);
    going.current = { side, both };
    return both.then((answer) => {
      // what was typed meanwhile wins over an older answer
      if (mine === turn.current) {
        going.current = undefined;
        setRequest(
          side === 'text'
            ? answer
            : { ...answer, text: next.text, fills: answer.line > 0 ? next.fills : answer.fills },
        );
      }
      return answer;
    });
  };
  const follow = (side: 'text' | 'fills', next: BenchRequest, wait: number) => {
    turn.current++;
    window.clearTimeout(timer.current);
    waiting.current = { side, next };
    timer.current = window.setTimeout(() => void start({ side, next }), wait);
  };
  /** Returns the text as it stands after the last key: a sheet just edited is written first. */
  const settled = async (): Promise<string> => {
    window.clearTimeout(timer.current);
    if (waiting.current?.side === 'text') return (await start(waiting.current)).text;
    if (waiting.current) {
      const typed = waiting.current.next.text;
      void start(waiting.current);
      return typed;
    }
    return going.current?.side === 'text' ? (await going.current.both).text : request.text;
  };
  const setFills = (fills: Fill[]) => {
    const next = { ...request, fills };
    setRequest(next);
    follow('text', next, WAIT);
  };
  return {
    request,
    settled,
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
      const kept = request.fills.filter(
        (f) =>
          !gone.some((p) => f.target === p || f.target.startsWith(`${p}/`) || f.target.startsWith(`${p}~`)),
      );
      const added = after.filter((p) => !before.includes(p) && !kept.some((f) => f.target === p));
      setFills(
        added.reduce<Fill[]>((all, target) => [...all, { id: freeId(all, 'c'), target, pick: true }], kept),
      );
    },
  };
}
