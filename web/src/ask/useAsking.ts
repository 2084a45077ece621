import { useRef, useState } from 'react';
import type { AskPage } from '../api/types';
import { flat, json, type Typed } from './record';

/** What was told of a record. */
export type Said = { status: number; body: unknown; record?: string };
export type Send = (body: string, signal: AbortSignal) => Promise<Said>;

/** Sends a record to an address; an answer that is no JSON is a text. */
export async function sendTo(
  address: string,
  headers: Record<string, string>,
  body: string,
  signal: AbortSignal,
): Promise<Said> {
  const answer = await fetch(address, {
    method: 'POST',
    signal,
    headers: { ...headers, 'Content-Type': 'application/json' },
    body,
  });
  const text = await answer.text();
  return {
    status: answer.status,
    body: text && answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text,
    record: answer.headers.get('Wire-Kettle-Record') ?? undefined,
  };
}

/** A record that was asked. */
export type Result = {
  key: number;
  typed: Typed;
  state: 'asking' | 'done' | 'failed';
  answer: Record<string, string>;
  problem?: string;
  /** What is wrong with fields, by their names. */
  wrong: Record<string, string>;
  record?: string;
};

const AT_ONCE = 4;

/** Asks records, some at once, and keeps what came back, the newest first. */
export function useAsking(page: AskPage, send: Send) {
  const [results, setResults] = useState<Result[]>([]);
  const [going, setGoing] = useState(0);
  const next = useRef(1);
  const stop = useRef(new AbortController());

  const one = async (typed: Typed): Promise<Result> => {
    const key = next.current++;
    const asked: Result = { key, typed, state: 'asking', answer: {}, wrong: {} };
    setResults((all) => [asked, ...all]);
    let ended: Result;
    try {
      ended = { ...asked, ...told(await send(json(page.fields, typed), stop.current.signal)) };
    } catch (e) {
      const problem = stop.current.signal.aborted
        ? 'Cancelled: nobody waited for the answer.'
        : e instanceof Error
          ? e.message
          : String(e);
      ended = { ...asked, state: 'failed', problem };
    }
    setResults((all) => all.map((r) => (r.key === key ? ended : r)));
    return ended;
  };

  const ask = async (rows: Typed[]): Promise<Result[]> => {
    stop.current = new AbortController();
    const ends: Result[] = [];
    let at = 0;
    setGoing(rows.length);
    const worker = async () => {
      while (at < rows.length && !stop.current.signal.aborted) {
        ends.push(await one(rows[at++]));
        setGoing((n) => n - 1);
      }
    };
    await Promise.all(Array.from({ length: Math.min(AT_ONCE, rows.length) }, worker));
    setGoing(0);
    return ends;
  };

  return { results, going, ask, cancel: () => stop.current.abort(), clear: () => setResults([]) };
}

function told(said: Said): Partial<Result> {
  if (said.status < 400) return { state: 'done', answer: flat(said.body), record: said.record };
  const problem = (said.body ?? {}) as {
    detail?: string;
    title?: string;
    problems?: { pointer: string; detail: string }[];
  };
  const wrong = Object.fromEntries(
    (problem.problems ?? []).map((p) => [
      p.pointer.slice(1).replaceAll('~1', '/').replaceAll('~0', '~'),
      p.detail,
    ]),
  );
  return {
    state: 'failed',
    problem: problem.detail ?? problem.title ?? `It was answered with ${said.status}.`,
    wrong,
    record: said.record,
  };
}
