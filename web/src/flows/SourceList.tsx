import type { SourceGroup } from '../api/types';
import css from './flow.module.css';

/** Everything in reach with its sample value; a field is dragged onto a row, or clicked to fill the row in focus. */
export function SourceList({ groups, used, focus, onPick }: { groups: SourceGroup[]; used: Set<string>; focus: Set<string>; onPick: (wire: string) => void }) {
  return (
    <div className={css.sources}>
      {groups.map((group) => (
        <div key={group.variable}>
          <h3 className={css.variable}><span className="mono">${group.variable}</span> <span className="faint">{group.title}</span></h3>
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
              <span className="clip">{field.name}{field.repeats && <span className="faint"> ×n</span>}{used.has(field.wire) && <span className={css.usedDot} title="used" />}</span>
              <span className="mono faint clip" style={{ fontSize: 11 }}>{field.value || ' '}</span>
            </div>
          ))}
        </div>
      ))}
      {groups.length === 0 && <p className="dim" style={{ padding: 12 }}>Pick a dataset in stage 1; its fields stand here with their values.</p>}
    </div>
  );
}
