import { useVirtualizer } from '@tanstack/react-virtual';
import { Input, Segmented, Tooltip } from 'antd';
import { useMemo, useRef, useState } from 'react';
import type { SheetRow } from '../api/types';
import css from './SheetTable.module.css';

/** Occurrence as it is written beside a field: nothing for exactly one. */
export function occurrence(row: SheetRow): string {
  if (row.min === 1 && row.max === 1) return '';
  return `${row.min}..${row.max < 0 ? 'n' : row.max}`;
}

/** The name cell of a sheet row, the same in every table that shows a message. */
export function FieldName({ row }: { row: SheetRow }) {
  const detail = [row.documentation, ...row.facets, row.values.length ? `one of ${row.values.slice(0, 12).join(', ')}` : '', row.fixed ? `always ${row.fixed}` : '']
    .filter(Boolean);
  return (
    <Tooltip title={detail.length ? detail.map((d) => <div key={d}>{d}</div>) : undefined} placement="right" mouseEnterDelay={0.4}>
      <span className="clip" style={{ paddingLeft: row.depth * 16 }}>
        {row.required ? <span className={css.required} title="required">•</span> : <span className={css.optional} />}
        {row.kind === 'attribute' && <span className="faint">@</span>}
        <span className={row.leaf ? '' : css.branch}>{row.name}</span>
        <span className={`mono faint ${css.type}`}>
          {row.type} {occurrence(row)} {row.choice && `choice ${row.choice}`} {row.recursive && '↻'}
          {row.unresolved && <span className="bad"> undefined</span>}
        </span>
      </span>
    </Tooltip>
  );
}

/** A message as an indented list of fields, searchable, required ones first in reach. */
export function SheetTable({ rows, height }: { rows: SheetRow[]; height?: string }) {
  const [text, setText] = useState('');
  const [show, setShow] = useState<'Required' | 'All'>('All');
  const box = useRef<HTMLDivElement>(null);
  const shown = useMemo(() => {
    const wanted = text.trim().toLowerCase();
    return rows.filter(
      (r) =>
        (show === 'All' || r.required) &&
        (!wanted || `${r.name} ${r.type} ${r.documentation}`.toLowerCase().includes(wanted)),
    );
  }, [rows, text, show]);
  const list = useVirtualizer({ count: shown.length, getScrollElement: () => box.current, estimateSize: () => 28, overscan: 12 });
  return (
    <div className={css.sheet} style={{ height }}>
      <div className="row" style={{ padding: '6px 8px' }}>
        <Input size="small" allowClear placeholder="Find a field" value={text} onChange={(e) => setText(e.target.value)} style={{ width: 190 }} />
        <Segmented
          size="small"
          value={show}
          onChange={setShow}
          options={[
            { value: 'Required', label: `Required ${rows.filter((r) => r.required).length}` },
            { value: 'All', label: `All ${rows.length}` },
          ]}
        />
      </div>
      <div ref={box} className={css.scroll}>
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = shown[item.index];
            return (
              <div key={row.path} className={css.line} style={{ transform: `translateY(${item.start}px)` }}>
                <FieldName row={row} />
                <span className="dim clip grow">{row.documentation}</span>
              </div>
            );
          })}
        </div>
        {shown.length === 0 && <div className="dim" style={{ padding: 12 }}>{rows.length ? 'No field fits.' : 'This message has no content.'}</div>}
      </div>
    </div>
  );
}
