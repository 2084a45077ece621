import { Button, Dropdown } from 'antd';
import type { FlowFile, Stage } from '../api/flow';
import type { Preview, Run } from '../api/types';
import css from './flow.module.css';

/** What can be added to the outline, and where it goes. */
export type Addition = 'before' | 'after' | 'write' | 'rejects';

/** One line per stage in order of execution, with the last run's counts; what fails hangs off to the side. */
export function Outline({ file, chosen, lastRun, attention, onChoose, onAdd }: { file: FlowFile; chosen: string; lastRun?: Run; attention: Preview['attention']; onChoose: (id: string) => void; onAdd: (what: Addition) => void }) {
  const call = file.stages.find((s) => s.verb === 'Call');
  const additions = [
    { key: 'before', label: 'A script before the call (Map)' },
    { key: 'after', label: 'A script after the call (Map)' },
    { key: 'write', label: 'Another table or file (Write)' },
    ...(call?.verb === 'Call' && !call.rejects ? [{ key: 'rejects', label: 'A file of rejected records (Write)' }] : []),
  ];
  const wrongAt = (id: string) => attention.filter((a) => a.stage === id).length;
  return (
    <>
      <ol className={css.outline}>
        {file.stages.map((stage, i) => {
          const wrong = wrongAt(stage.id);
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
                <button type="button" className={`${css.failLine} ${stage.rejects?.id === chosen ? css.failLineOn : ''}`} onClick={() => onChoose(stage.rejects?.id ?? stage.id)}>
                  <span className={css.spur} />
                  {stage.delivery.retries > 0 ? `try again ${stage.delivery.retries}×, then reject` : 'reject'}
                  {stage.delivery.failedWhen.map((c) => <span key={c.id} className="clip">on {c.message || c.expression}: reject</span>)}
                  {stage.rejects && <span className="clip"><b>Write</b> {stage.rejects.dataset ?? 'nowhere yet'}{wrongAt(stage.rejects.id) > 0 && ` · ${wrongAt(stage.rejects.id)} problems`}</span>}
                </button>
              )}
            </li>
          );
        })}
      </ol>
      <div className={css.outlineAdd}>
        <Dropdown trigger={['click']} menu={{ items: additions, onClick: ({ key }) => onAdd(key as Addition) }}>
          <Button size="small">Add a stage</Button>
        </Dropdown>
      </div>
    </>
  );
}

function object(stage: Stage): string {
  if (stage.verb === 'Call') return stage.operation ?? 'no operation yet';
  if (stage.verb === 'Map') return `$${stage.as}`;
  return stage.dataset ?? (stage.verb === 'Read' ? 'no dataset yet' : 'nowhere yet');
}

function detail(stage: Stage) {
  if (stage.verb === 'Read') return <>as <span className="mono">${stage.as}</span>{stage.groupBy?.length ? ` by ${stage.groupBy.join(', ')}` : ''}</>;
  if (stage.verb === 'Call') return <>{stage.contract} · as <span className="mono">${stage.as}</span></>;
  if (stage.verb === 'Map') return stage.language === 'xslt' ? 'XSLT' : 'XQuery';
  return stage.document ? `${stage.document.toUpperCase()} document · ${stage.mode}` : `${stage.columns.length} columns · ${stage.mode}`;
}

function counts(stage: Stage, run: Run | undefined) {
  if (stage.verb === 'Read') return <>{stage.groupBy?.length ? 'N → 1' : (run?.done ?? '')}</>;
  if (stage.verb === 'Map') return '1 → 1';
  if (stage.verb === 'Call') return <><span>1 → 1</span>{run && run.rejected + run.inDoubt > 0 && <span className="bad">{run.rejected + run.inDoubt}</span>}</>;
  return <><span>{stage.rows ? '1 → N' : '1 → 1'}</span><span>{run ? run.written : ''}</span></>;
}
