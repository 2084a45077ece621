import type { FlowDifference, UseChange } from '../api/types';
import css from './publish.module.css';

const KINDS: Record<string, string> = { added: 'new', removed: 'gone', moved: 'moved', changed: 'changed' };
const LOOK: Record<string, string> = { added: 'fine', removed: 'failure', moved: '', changed: 'caution' };

/** What differs between two revisions: a box for each stage, its parts as they were and as they are. */
export function Differences({ stages, uses = [] }: { stages: FlowDifference[]; uses?: UseChange[] }) {
  const groups = new Map<string, FlowDifference[]>();
  for (const each of stages) {
    const key = each.stage ?? '';
    groups.set(key, [...(groups.get(key) ?? []), each]);
  }
  if (stages.length + uses.length === 0) return <p className="dim">Nothing differs.</p>;
  return (
    <div aria-label="differences">
      {[...groups].map(([key, its]) => {
        const whole = its.filter((d) => d.what === undefined);
        return (
          <div key={key} className={css.stage}>
            <h3>
              <span className="clip">{its[0]?.title}</span>
              {whole.map((d) => (
                <span key={d.kind} className={`chip ${LOOK[d.kind] ?? ''}`}>
                  {KINDS[d.kind]}
                </span>
              ))}
            </h3>
            {whole
              .filter((d) => d.kind === 'moved')
              .map((d) => (
                <Part key="moved" what="stands" before={d.before} after={d.after} />
              ))}
            {its
              .filter((d) => d.what !== undefined)
              .map((d) => (
                <Part key={d.what} what={d.what ?? ''} before={d.before} after={d.after} />
              ))}
          </div>
        );
      })}
      {uses.length > 0 && (
        <div className={css.stage}>
          <h3>Contracts and values</h3>
          {uses.map((u) => (
            <Part key={u.kind + u.name} what={`${u.kind} ${u.name}`} before={u.before} after={u.after} />
          ))}
        </div>
      )}
    </div>
  );
}

function Part({ what, before, after }: { what: string; before?: string; after?: string }) {
  // a target names its elements with their namespaces: who reads wants the names
  const plain = what.replace(/\{[^}]*\}/g, '');
  return (
    <div className={css.part}>
      <span className="mono clip" title={what}>
        {plain}
      </span>
      <span className="mono">
        {before !== undefined && <div className={css.before}>{before}</div>}
        {after !== undefined && <div className={css.after}>{after}</div>}
      </span>
    </div>
  );
}
