import type { FlowFile, Stage } from '../api/flow';
import type { FlowProblem, Run } from '../api/types';
import css from './flow.module.css';

/** One line per stage in order of execution, with the last run's counts; what fails hangs off to the side. */
export function Outline({ file, chosen, lastRun, problems, onChoose }: { file: FlowFile; chosen: string; lastRun?: Run; problems: FlowProblem[]; onChoose: (id: string) => void }) {
  return (
    <ol className={css.outline}>
      {file.stages.map((stage, i) => {
        const wrong = problems.filter((p) => p.stage === stage.id).length;
        return (
          <li key={stage.id}>
            <button type="button" className={`${css.line} ${stage.id === chosen ? css.lineOn : ''}`} onClick={() => onChoose(stage.id)} aria-current={stage.id === chosen}>
              <span className={css.lineNumber}>{i + 1}</span>
              <span className={css.knot} />
              <span className={css.lineText}>
                <span className="clip"><b>{stage.verb}</b> {object(stage)}</span>
                <span className="dim clip" style={{ fontSize: 12 }}>{wrong > 0 ? <span className="bad">{wrong} {wrong === 1 ? 'problem' : 'problems'}</span> : detail(stage)}</span>
              </span>
              <span className={css.lineCounts}>{counts(stage, lastRun)}</span>
            </button>
            {stage.verb === 'Call' && (
              <button type="button" className={css.failLine} onClick={() => onChoose(stage.id)}>
                <span className={css.spur} />
                {stage.delivery.retries > 0 ? `try again ${stage.delivery.retries}×, then reject` : 'reject'}
                {stage.delivery.failedWhen.map((c) => <span key={c.id} className="clip">on {c.message || c.expression}: reject</span>)}
              </button>
            )}
          </li>
        );
      })}
    </ol>
  );
}

function object(stage: Stage): string {
  if (stage.verb === 'Call') return stage.operation ?? 'no operation yet';
  return stage.dataset ?? (stage.verb === 'Read' ? 'no dataset yet' : 'nowhere yet');
}

function detail(stage: Stage) {
  if (stage.verb === 'Read') return <>as <span className="mono">${stage.as}</span></>;
  if (stage.verb === 'Call') return <>{stage.contract} · as <span className="mono">${stage.as}</span></>;
  return `${stage.columns.length} columns · ${stage.mode}`;
}

function counts(stage: Stage, run: Run | undefined) {
  if (stage.verb === 'Read') return <>{run?.done ?? ''}</>;
  if (stage.verb === 'Call') return <><span>1 → 1</span>{run && run.rejected + run.inDoubt > 0 && <span className="bad">{run.rejected + run.inDoubt}</span>}</>;
  return <><span>{stage.rows ? '1 → N' : '1 → 1'}</span><span>{run ? run.written : ''}</span></>;
}
