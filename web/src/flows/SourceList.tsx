import { Input } from 'antd';
import { useState } from 'react';
import type { SourceGroup } from '../api/types';
import css from './flow.module.css';

/** With more fields than this a list is searched rather than looked through. */
const MANY = 18;

/** Everything in reach with its sample value; a field is dragged onto a row, or clicked to fill the row in focus. */
export function SourceList({
  groups,
  used,
  focus,
  onPick,
}: {
  groups: SourceGroup[];
  used: Set<string>;
  focus: Set<string>;
  onPick: (wire: string) => void;
}) {
  const [text, setText] = useState('');
  const wanted = text.trim().toLowerCase();
  const many = groups.reduce((n, g) => n + g.fields.length, 0) > MANY;
  const found =
    many && wanted
      ? groups
          .map((g) => ({
            ...g,
            fields: g.fields.filter((f) => `${f.wire} ${f.value}`.toLowerCase().includes(wanted)),
          }))
          .filter((g) => g.fields.length > 0)
      : groups;
  return (
    <div className={css.sources}>
      {many && (
        <Input
          size="small"
          allowClear
          className={css.sourceSearch}
          aria-label="Find a source"
          placeholder="Search"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => (e.key === 'Enter' || e.key === 'Escape') && e.currentTarget.blur()}
        />
      )}
      <div className={css.sourceScroll} data-sources>
        {found.length === 0 && groups.length > 0 && (
          <p className="dim pad">No field has that in its name or value.</p>
        )}
        {found.map((group) => (
          <div key={group.variable}>
            <h3 className={css.variable}>
              <span className="mono">${group.variable}</span> <span className="faint">{group.title}</span>
            </h3>
            {group.fields.map((field) => (
              <div
                key={field.wire}
                data-wire={field.wire}
                draggable
                title={`${field.wire}${field.type ? ` · ${field.type}` : ''}`}
                className={`${css.source} ${focus.has(field.wire) ? css.sourceOn : ''}`}
                style={{ paddingLeft: 12 + field.depth * 10 }}
                onDragStart={(e) => {
                  e.dataTransfer.setData('text/plain', field.wire);
                  e.dataTransfer.effectAllowed = 'copy';
                }}
                onDoubleClick={() => onPick(field.wire)}
              >
                <span className={css.sourceName}>
                  <span className="clip">{field.name}</span>
                  {field.repeats && <span className="faint">×n</span>}
                  {used.has(field.wire) && <span className={css.usedDot} title="used" />}
                </span>
                <span className="mono faint clip small">{field.value || ' '}</span>
              </div>
            ))}
          </div>
        ))}
        {groups.length === 0 && (
          <p className="dim pad">
            Pick a dataset in stage 1; its fields are then listed here with their values.
          </p>
        )}
      </div>
    </div>
  );
}
