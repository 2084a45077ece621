import { type RefObject, useEffect, useState } from 'react';
import { type Fill, fillPaths } from '../api/flow';
import { pathOutside, repeatsAround } from './repeats';

type Curve = { id: string; path: string; strong: boolean };

/** Wires from source fields to the rows in view, drawn in the gutter between them; the row in focus is strong. */
export function Wires({
  box,
  fills,
  focus,
  version,
}: {
  box: RefObject<HTMLDivElement | null>;
  fills: Fill[];
  focus?: string;
  version: unknown;
}) {
  const [curves, setCurves] = useState<Curve[]>([]);
  useEffect(() => {
    const host = box.current;
    if (!host) return;
    let frame = 0;
    const draw = () => {
      cancelAnimationFrame(frame);
      frame = requestAnimationFrame(() => {
        const at = host.getBoundingClientRect();
        const gutter = host.querySelector('[data-gutter]')?.getBoundingClientRect();
        if (!gutter) return;
        const sources = new Map<string, DOMRect>();
        host
          .querySelectorAll<HTMLElement>('[data-wire]')
          .forEach((e) => sources.set(String(e.dataset.wire), e.getBoundingClientRect()));
        const targets = new Map<string, DOMRect>();
        host
          .querySelectorAll<HTMLElement>('[data-target]')
          .forEach((e) => targets.set(String(e.dataset.target), e.getBoundingClientRect()));
        const list = host.querySelector('[data-sources]')?.getBoundingClientRect() ?? gutter;
        const inView = (r: DOMRect, box = gutter) =>
          r.top + r.height / 2 > box.top + 2 && r.top + r.height / 2 < box.bottom - 2;
        const drawn: Curve[] = [];
        for (const fill of fills) {
          const target = targets.get(fill.target);
          if (!target || !inView(target)) continue;
          for (const name of new Set(fillPaths(fill))) {
            // what is reached inside a repeat starts, seen from outside, at the nodes it repeats for
            const source =
              sources.get(name) ?? sources.get(pathOutside(name, repeatsAround(fills, fill.target)));
            if (!source || !inView(source, list)) continue;
            const x1 = gutter.left - at.left;
            const x2 = gutter.right - at.left;
            const y1 = source.top + source.height / 2 - at.top;
            const y2 = target.top + target.height / 2 - at.top;
            const bend = (x2 - x1) * 0.55;
            drawn.push({
              id: `${fill.id} ${name}`,
              path: `M${x1} ${y1} C${x1 + bend} ${y1} ${x2 - bend} ${y2} ${x2} ${y2}`,
              strong: fill.target === focus,
            });
          }
        }
        setCurves(drawn);
      });
    };
    draw();
    host.addEventListener('scroll', draw, true);
    const size = new ResizeObserver(draw);
    size.observe(host);
    return () => {
      cancelAnimationFrame(frame);
      host.removeEventListener('scroll', draw, true);
      size.disconnect();
    };
  }, [box, fills, focus, version]);
  return (
    <svg aria-hidden className="overlay">
      {[...curves]
        .sort((a, b) => Number(a.strong) - Number(b.strong))
        .map((c) => (
          <path
            key={c.id}
            d={c.path}
            fill="none"
            stroke="var(--wire)"
            strokeWidth={c.strong ? 2.4 : 1.2}
            strokeOpacity={c.strong ? 1 : 0.38}
          />
        ))}
    </svg>
  );
}
