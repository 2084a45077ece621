import { Popover } from 'antd';
import type { FieldValue } from '../api/types';
import css from './flow.module.css';

/** How a row fares over all samples: fine, empty, invalid; a click lists the records to blame. */
export function Coverage({ value, onRecord }: { value?: FieldValue; onRecord: (record: number) => void }) {
  if (!value) return null;
  const all = value.fine + value.empty + value.invalid;
  if (all === 0) return null;
  const bar = (
    <span
      className={css.coverage}
      title={`${value.fine} fine, ${value.empty} empty, ${value.invalid} invalid`}
      role="img"
      aria-label={`${value.fine} fine, ${value.empty} empty, ${value.invalid} invalid`}
    >
      <i style={{ width: `${(value.fine / all) * 100}%`, background: 'var(--primary)' }} />
      <i style={{ width: `${(value.empty / all) * 100}%`, background: '#d5d0c5' }} />
      <i style={{ width: `${(value.invalid / all) * 100}%`, background: 'var(--failure)' }} />
    </span>
  );
  if (value.offenders.length === 0) return bar;
  return (
    <Popover
      trigger="click"
      placement="left"
      title={`${value.invalid} of ${all} do not fit`}
      content={value.offenders.map((o) => (
        <div key={o.record} className="row narrow">
          <button type="button" className="linkish" onClick={() => onRecord(o.record)}>
            record {o.record}
          </button>
          <span className="mono clip">{o.value}</span>
          <span className="bad clip grow">{o.message}</span>
        </div>
      ))}
    >
      <button type="button" className={css.bare} onClick={(e) => e.stopPropagation()}>
        {bar}
      </button>
    </Popover>
  );
}
