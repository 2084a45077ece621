import type { CallStage } from '../api/flow';
import { fillText } from '../api/flow';
import type { Preview } from '../api/types';
import css from './flow.module.css';

/** Fills whose field is not in the message (any more): nothing is lost until they are removed here. */
export function LostFills({
  stage,
  preview,
  onChange,
}: {
  stage: CallStage;
  preview: Preview | undefined;
  onChange: (stage: CallStage) => void;
}) {
  const lost = stage.fills.filter((f) =>
    preview?.problems.some(
      (p) =>
        p.stage === stage.id && p.fillId === f.id && p.message?.endsWith('is not a field of this message'),
    ),
  );
  if (lost.length === 0) return null;
  const remove = (ids: string[]) =>
    onChange({ ...stage, fills: stage.fills.filter((f) => !ids.includes(f.id)) });
  return (
    <div className={css.lost}>
      <span>{lost.length === 1 ? 'A fill has' : `${lost.length} fills have`} no field in this message:</span>
      {lost.slice(0, 6).map((f) => (
        <span key={f.id} className="row tight" title={f.target}>
          <b>
            {f.target
              .replace(/\{[^}]*\}/g, '')
              .split('/')
              .slice(-2)
              .join(' › ')}
          </b>
          <span className="mono">{fillText(f)}</span>
          <button type="button" className="linkish" onClick={() => remove([f.id])}>
            remove
          </button>
        </span>
      ))}
      {lost.length > 1 && (
        <button type="button" className="linkish" onClick={() => remove(lost.map((f) => f.id))}>
          remove all {lost.length}
        </button>
      )}
    </div>
  );
}
