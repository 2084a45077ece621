import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { components } from '../api/schema';
import css from './flow.module.css';

export type Told = components['schemas']['ExpressionTold'];
export type Try = (text: string) => Promise<Told>;

/** An expression while it is typed: its value for the sample, or what is wrong, underlined where it is wrong. */
export function ExpressionStrip({
  text,
  onTry,
  onReplace,
}: {
  text: string;
  onTry: Try;
  onReplace: (text: string) => void;
}) {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), 220);
    return () => clearTimeout(timer);
  }, [text]);
  const told = useQuery({
    queryKey: ['expression', settled],
    queryFn: () => onTry(settled),
    gcTime: 10_000,
    placeholderData: (before) => before,
  });
  const answer = told.data;
  const hints = (answer?.hints ?? []).filter((h) => text.slice(h.from, h.to) && settled === text);
  const wrong = settled === text && answer?.problem ? wrongPart(text, answer.column ?? 0) : undefined;
  const marks = [
    ...(wrong ? [{ from: wrong[0], to: wrong[1], kind: css.wrongPart }] : []),
    ...hints.map((h) => ({ from: h.from ?? 0, to: h.to ?? 0, kind: css.hintPart })),
  ].sort((a, b) => a.from - b.from);
  const parts = [];
  let at = 0;
  for (const mark of marks) {
    if (mark.from < at) continue;
    parts.push(
      text.slice(at, mark.from),
      <span key={mark.from} className={mark.kind}>
        {text.slice(mark.from, mark.to) || ' '}
      </span>,
    );
    at = mark.to;
  }
  parts.push(text.slice(at));
  return (
    <div className={css.strip} role="status" aria-label="expression">
      <span className={`mono ${css.stripText}`}>{parts}</span>
      {answer?.problem ? (
        <span className="bad" title={answer.problem}>
          {answer.problem}
        </span>
      ) : (
        <span className="mono clip" title={answer?.value ?? ''}>
          <span className="faint">= </span>
          {answer?.value ?? ''}
        </span>
      )}
      {hints.map((h) => (
        <span key={h.message} className={css.hint}>
          {h.message?.replace(/: write .*/, '')}{' '}
          {h.instead && (
            <button
              type="button"
              className="linkish"
              onMouseDown={(e) => {
                e.preventDefault();
                onReplace(text.slice(0, h.from) + h.instead + text.slice(h.to));
              }}
            >
              write {h.instead}
            </button>
          )}
        </span>
      ))}
    </div>
  );
}

/** The word at the column an error names; to the end of the text where none is known. */
function wrongPart(text: string, column: number): [number, number] {
  if (column <= 0) return [0, text.length];
  let from = Math.max(0, Math.min(text.length - 1, column - 1));
  // the engine counts to what stands before the part it means
  while (from < text.length - 1 && /[\s,(]/.test(text[from])) from++;
  const word = /^[$\w:./@-]+|^./.exec(text.slice(from));
  return [from, from + (word?.[0].length ?? 1)];
}
