import { Tooltip } from 'antd';
import type { SheetRow } from '../api/types';
import css from './FieldName.module.css';

/** Occurrence as it is written beside a field: nothing for exactly one. */
export function occurrence(row: SheetRow): string {
  if (row.min === 1 && row.max === 1) return '';
  return `${row.min}..${row.max < 0 ? 'n' : row.max}`;
}

/** The name cell of a sheet row, the same in every table that shows a message. */
export function FieldName({ row, onToggle }: { row: SheetRow; onToggle?: () => void }) {
  const detail = [
    row.documentation,
    ...row.facets,
    row.values.length
      ? `one of ${row.values.slice(0, 12).join(', ')}${row.values.length > 12 ? ' …' : ''}`
      : '',
    row.fixed ? `always ${row.fixed}` : '',
  ].filter(Boolean);
  return (
    <Tooltip
      title={detail.length ? detail.map((d) => <div key={d}>{d}</div>) : undefined}
      placement="topLeft"
      mouseEnterDelay={0.6}
    >
      <span className="clip" style={{ paddingLeft: row.depth * 14, flex: '0 1 auto' }}>
        {onToggle ? (
          <button
            type="button"
            className={css.caret}
            aria-label={`${row.expanded ? 'Collapse' : 'Expand'} ${row.name}`}
            tabIndex={-1}
            onClick={(e) => {
              e.stopPropagation();
              onToggle();
            }}
          >
            {row.expanded ? '▾' : '▸'}
          </button>
        ) : (
          <span className={css.noCaret} />
        )}
        {row.required ? (
          <span className={css.required} title="required">
            •
          </span>
        ) : (
          <span className={css.optional} />
        )}
        {row.kind === 'attribute' && <span className="faint">@</span>}
        <span className={row.leaf ? '' : css.branch}>{row.name}</span>
        {row.occurrence > 1 && <span className="mono dim"> {row.occurrence}</span>}
        <span className={`mono faint ${css.type}`}>
          {row.type} {occurrence(row)} {row.choice && `choice ${row.choice}`} {row.recursive && '↻'}
          {row.unresolved && <span className="bad"> undefined</span>}
        </span>
      </span>
    </Tooltip>
  );
}
