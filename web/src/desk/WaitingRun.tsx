import { Link } from 'react-router';
import type { Run } from '../api/types';
import { When } from '../shared/parts';
import css from './Desk.module.css';

/** A run that waits for somebody: what for. */
export function WaitingRun({ run }: { run: Run }) {
  const open = run.rejected + run.heldBack - run.resent - run.discarded;
  const doubt = run.inDoubt - run.doubtSettled;
  const rests = run.state === 'paused' || run.state === 'interrupted';
  const words = [
    rests && `${run.state}: somebody lets it go on`,
    run.state === 'running' && 'on hold: an endpoint is away or closed',
    open > 0 && `${open} to be corrected or sent again`,
    doubt > 0 && `${doubt} in doubt`,
  ].filter(Boolean);
  return (
    <Link to={`/runs/${run.id}`} className={css.card}>
      <span className={css.big}>{rests || open + doubt === 0 ? '–' : open + doubt}</span>
      <span className="grow">
        <b>{run.flowName}</b>
        <div className="dim">
          {words.join(', ')}; run {run.id} in {run.environment}, <When at={run.startedAt} />
        </div>
      </span>
      <span className="dim">see why →</span>
    </Link>
  );
}
