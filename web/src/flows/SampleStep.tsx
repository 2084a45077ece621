import { Button, InputNumber } from 'antd';
import type { ReactNode } from 'react';
import css from './flow.module.css';

/** Which of several the sample is: one back, one on, or by its number. */
export function SampleStep({
  what,
  title,
  at,
  total,
  onAt,
}: {
  /** What is counted, for names of the buttons: record, crate. */
  what: string;
  title: ReactNode;
  at: number;
  total: number;
  onAt: (at: number) => void;
}) {
  return (
    <div className={css.sampleHead}>
      {title}
      <span className="grow" />
      <Button size="small" aria-label={`previous ${what}`} disabled={at <= 1} onClick={() => onAt(at - 1)}>
        ‹
      </Button>
      <InputNumber
        size="small"
        aria-label={`sample ${what}`}
        min={1}
        max={Math.max(1, total)}
        value={at}
        controls={false}
        style={{ width: total > 9999 ? 64 : 46 }}
        onChange={(n) => n && onAt(n)}
      />
      <span className="dim">of {total}</span>
      <Button size="small" aria-label={`next ${what}`} disabled={at >= total} onClick={() => onAt(at + 1)}>
        ›
      </Button>
    </div>
  );
}
