import type { InputRef } from 'antd';
import { type RefObject, useLayoutEffect, useRef } from 'react';
import { createPortal } from 'react-dom';
import css from './flow.module.css';

/** One entry of a list of completions: the whole text it would make, and what is said of it. */
export type Completion = { value: string; name: string; hint: string; detail: string };

const HEIGHT = 264;

/** What a text can be completed with, below its field, or above where there is no room; the field keeps the focus. */
export function Completions({
  field,
  entries,
  at,
  onTake,
}: {
  field: RefObject<InputRef | null>;
  entries: Completion[];
  at: number;
  onTake: (value: string) => void;
}) {
  const list = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => {
    const put = () => {
      const place = field.current?.input?.getBoundingClientRect();
      const box = list.current;
      if (!box || !place) return;
      const below = window.innerHeight - place.bottom > HEIGHT;
      box.style.left = `${Math.min(place.left, window.innerWidth - 440)}px`;
      box.style.top = below ? `${place.bottom + 3}px` : '';
      box.style.bottom = below ? '' : `${window.innerHeight - place.top + 3}px`;
    };
    put();
    // the sheet may be scrolled under it
    window.addEventListener('scroll', put, true);
    return () => window.removeEventListener('scroll', put, true);
  }, [field]);
  useLayoutEffect(() => {
    if (at >= 0) list.current?.children[at]?.scrollIntoView({ block: 'nearest' });
  }, [at]);
  return createPortal(
    <div
      ref={list}
      role="listbox"
      aria-label="completions"
      className={css.completions}
      style={{ maxHeight: HEIGHT }}
      onMouseDown={(e) => e.preventDefault()}
    >
      {entries.map((entry, i) => (
        <div
          key={entry.value}
          role="option"
          aria-selected={i === at}
          className={`${css.completion} ${i === at ? css.completionOn : ''}`}
          onClick={() => onTake(entry.value)}
        >
          <span className="mono nowrap">{entry.name}</span>
          {entry.detail && <span className="faint small">{entry.detail}</span>}
          <span className="faint clip grow right">{entry.hint}</span>
        </div>
      ))}
    </div>,
    document.body,
  );
}
