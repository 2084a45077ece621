import { Alert, Button } from 'antd';
import { type ReactNode, useRef, useState } from 'react';
import { ApiProblem } from '../api/client';
import type { Run } from '../api/types';

/** A point in time in the reader's zone, the zone named on hover. */
export function When({ at }: { at: string | undefined }) {
  if (!at) return <span className="faint">–</span>;
  const date = new Date(at);
  const today = new Date().toDateString() === date.toDateString();
  const time = date.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', hour12: false });
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return (
    <span title={`${date.toLocaleString()} (${zone})`} className="nowrap">
      {today ? `today ${time}` : `${date.toLocaleDateString('en-CA')} ${time}`}
    </span>
  );
}

/** An empty list: what to do first, and the button that does it. */
export function Nothing({
  title,
  children,
  action,
}: {
  title: string;
  children: ReactNode;
  action?: ReactNode;
}) {
  return (
    <div className="empty-page">
      <h2 className="h-large gap-below-s">{title}</h2>
      <p className="dim gap-below">{children}</p>
      {action}
    </div>
  );
}

/** An error, with a way to try again. */
export function Trouble({ error, retry }: { error: unknown; retry?: () => void }) {
  if (!error) return null;
  const text = error instanceof Error ? error.message : String(error);
  return (
    <Alert
      type="error"
      showIcon
      title={text}
      className="gap-around"
      action={
        retry && error instanceof ApiProblem ? (
          <Button size="small" onClick={retry}>
            Try again
          </Button>
        ) : undefined
      }
    />
  );
}

/** What became of a run, in one line of counts that mean the same everywhere. */
export function RunCounts({ run }: { run: Run }) {
  return (
    <span className="nowrap">
      {run.done} done
      {run.rejected > 0 && <span className="bad"> · {run.rejected} rejected</span>}
      {run.leftOut > 0 && <> · {run.leftOut} left out</>}
      {run.inDoubt > 0 && <span className="bad"> · {run.inDoubt} in doubt</span>}
      {run.heldBack > 0 && <span className="bad"> · {run.heldBack} held back</span>}
    </span>
  );
}

/** A run's state as a chip. */
export function RunChip({ run }: { run: Run }) {
  const look: Record<string, string> = {
    done: 'fine',
    running: 'fine',
    failed: 'failure',
    interrupted: 'failure',
    stopped: 'failure',
    cancelled: 'caution',
    paused: 'caution',
  };
  return <span className={`chip ${look[run.state] ?? ''}`}>{run.state}</span>;
}

/** Two panes with a divider that can be dragged; the width is remembered. */
export function SidePane({
  name,
  side,
  start,
  min,
  max,
  children,
}: {
  name: string;
  side: 'left' | 'right';
  start: number;
  min: number;
  max: number;
  children: ReactNode;
}) {
  const [width, setWidth] = useState(() => Number(localStorage.getItem(`pane-${name}`)) || start);
  const latest = useRef(width);
  const drag = (down: React.PointerEvent) => {
    const from = down.clientX;
    const before = latest.current;
    const move = (e: PointerEvent) => {
      const wanted = before + (side === 'left' ? e.clientX - from : from - e.clientX);
      latest.current = Math.max(min, Math.min(max, wanted));
      setWidth(latest.current);
    };
    const up = () => {
      localStorage.setItem(`pane-${name}`, String(latest.current));
      window.removeEventListener('pointermove', move);
      window.removeEventListener('pointerup', up);
    };
    window.addEventListener('pointermove', move);
    window.addEventListener('pointerup', up);
  };
  const divider = (
    <div role="separator" aria-label={`resize ${name}`} onPointerDown={drag} className="divider" />
  );
  return (
    <>
      {side === 'right' && divider}
      <div
        style={{
          width,
          flex: 'none',
          minHeight: 0,
          display: 'flex',
          flexDirection: 'column',
          overflow: 'hidden',
        }}
      >
        {children}
      </div>
      {side === 'left' && divider}
    </>
  );
}
