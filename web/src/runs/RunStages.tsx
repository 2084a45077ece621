import { Link } from 'react-router';
import type { Flow } from '../api/flow';
import { outlineLines } from '../api/outline';
import { lookOf } from '../flows/verbs';
import type { RunStage } from '../api/types';
import css from './RunPage.module.css';

/** Counts of every stage of a run, in the order of its outline; each is a way into the ledger. */
export function RunStages({
  file,
  stages,
  chosen,
  onChoose,
}: {
  file: Flow['file'];
  stages: Record<string, RunStage>;
  chosen: string | undefined;
  onChoose: (stage: string | undefined) => void;
}) {
  const lines = outlineLines(file).filter((l) => l.kind === 'stage' && l.stage.verb !== 'Note');
  return (
    <table className={css.stages} aria-label="Stages">
      <thead>
        <tr>
          <th>Stage</th>
          <th>came here</th>
          <th>ended here</th>
          <th>calls</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((line) => {
          if (line.kind !== 'stage') return null;
          const counts = stages[line.id];
          return (
            <tr key={line.id} className={chosen === line.id ? css.stageOn : undefined}>
              <td style={{ paddingLeft: 8 + line.depth * 14 }}>
                <span className="faint num">{line.failing ? '' : line.number}</span>{' '}
                <b className={line.failing ? 'bad' : ''}>{line.stage.verb}</b>{' '}
                <span className="dim">{lookOf(line.stage).object(line.stage)}</span>
              </td>
              <td className="num">{counts?.entered ?? 0}</td>
              <td className="num">
                {counts?.ended ? (
                  <button
                    type="button"
                    className={`linkish ${line.stage.verb === 'Filter' ? '' : 'bad'}`}
                    onClick={() => onChoose(chosen === line.id ? undefined : line.id)}
                  >
                    {counts.ended}
                  </button>
                ) : (
                  <span className="faint">0</span>
                )}
              </td>
              <td className="num">
                {line.stage.verb !== 'Call' ? (
                  ''
                ) : /^[ab]/.test(line.number) && counts?.calls ? (
                  <Link
                    to={`?record=${line.number.startsWith('b') ? 0 : -1}`}
                    title="what was sent and answered"
                  >
                    {counts.calls}
                  </Link>
                ) : (
                  (counts?.calls ?? 0)
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
