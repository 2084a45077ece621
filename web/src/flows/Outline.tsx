import { Button } from 'antd';
import { useMemo, useState } from 'react';
import type { FlowFile, Rule, Stage } from '../api/flow';
import { type Line, outlineLines } from '../api/outline';
import type { Preview, Run, RunStage } from '../api/types';
import css from './flow.module.css';
import { type Addition, AddStage } from './AddStage';
import { lookOf } from './verbs';

/** Returns what a rule of a failure lane does, in a few words. */
export function ruleText(rule: Rule): string {
  const on = rule.on?.length
    ? ` on ${rule.on.map((c) => WORDS[c] ?? c).join(', ')}`
    : rule.when
      ? ' when it holds'
      : '';
  const then = {
    again: `try again ${rule.times ?? 2}×`,
    use: 'use a value, go on',
    'go-on': 'go on',
    reject: 'reject',
    stop: 'stop the run',
    ask: 'in doubt: ask',
  }[rule.then];
  return then + on;
}

const WORDS: Record<string, string> = {
  timeout: 'time-out',
  'http-status': 'HTTP status',
  condition: 'counts as failed',
  write: 'row refused',
};

/**
 * One line per stage in order of execution, ways and failure lanes indented, with the last run's counts. The
 * sample's way
 * through it is inked; what it does not come to is pale.
 */
export function Outline({
  file,
  chosen,
  lastRun,
  stages,
  way,
  attention,
  onChoose,
  onAdd,
  adding,
  failing,
  onAdding,
}: {
  file: FlowFile;
  chosen: string;
  lastRun?: Run;
  stages: Record<string, RunStage>;
  way: Preview['way'];
  attention: Preview['attention'];
  onChoose: (id: string) => void;
  onAdd: (what: Addition) => void;
  adding: boolean;
  /** The stage whose failure a rule could be for, if one is chosen. */
  failing: Stage | undefined;
  onAdding: (open: boolean) => void;
}) {
  const lines = useMemo(() => outlineLines(file), [file]);
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const wrongAt = (id: string) => attention.filter((a) => a.stage === id).length;
  const reached = useMemo(() => new Set(way?.reached ?? []), [way]);
  const hidden = hiddenBehind(lines, folded);
  return (
    <>
      <ol className={css.outline} aria-label="Outline">
        {lines
          .filter((line) => !hidden.has(line.id))
          .map((line) => (
            <li
              key={`${line.kind} ${line.id}`}
              style={{ paddingLeft: line.depth * 14 }}
              className={
                line.kind === 'rule' || ('failing' in line && line.failing) ? css.failing : undefined
              }
            >
              {line.kind === 'way' && (
                <button
                  type="button"
                  className={[
                    css.wayLine,
                    line.id === chosen && css.wayChosen,
                    line.branch === chosen && css.wayOn,
                    line.part && css.partLine,
                  ]
                    .filter(Boolean)
                    .join(' ')}
                  onClick={() => onChoose(line.id)}
                  aria-current={line.id === chosen}
                >
                  <span className={`clip ${way?.ways[line.branch] === line.place ? css.wayTaken : ''}`}>
                    {line.way.label || line.way.when || 'otherwise'}
                  </span>
                  {line.way.stages.length === 0 && !line.end && !line.part && (
                    <span className="faint">
                      {' '}
                      · {line.id === chosen ? 'A adds a stage here' : 'nothing yet'}
                    </span>
                  )}
                </button>
              )}
              {line.kind === 'rule' && (
                <button
                  type="button"
                  className={`${css.ruleLine} ${line.id === chosen ? css.ruleOn : ''}`}
                  onClick={() => onChoose(line.id)}
                  aria-current={line.id === chosen}
                >
                  <span className={css.spur} />
                  <span className="clip">
                    {line.owner ? '' : 'any stage: '}
                    {ruleText(line.rule)}
                  </span>
                </button>
              )}
              {line.kind === 'stage' && (
                <StageLine
                  line={line}
                  on={line.id === chosen}
                  wrong={wrongAt(line.id)}
                  pale={
                    way !== undefined && way !== null && !reached.has(line.id) && line.stage.verb !== 'Note'
                  }
                  failed={way?.endedAt === line.id && way?.failure !== undefined && way?.failure !== null}
                  counts={stages[line.id]}
                  runId={lastRun?.id}
                  folded={folded.has(line.id)}
                  onFold={
                    holds(line.stage)
                      ? () =>
                          setFolded((f) => {
                            const next = new Set(f);
                            if (!next.delete(line.id)) next.add(line.id);
                            return next;
                          })
                      : undefined
                  }
                  onChoose={() => onChoose(line.id)}
                />
              )}
            </li>
          ))}
      </ol>
      <div className={css.outlineAdd}>
        <Button size="small" onClick={() => onAdding(true)} title="A">
          Add a stage
        </Button>
      </div>
      {adding && (
        <AddStage
          file={file}
          onAdd={(what) => {
            onAdding(false);
            onAdd(what);
          }}
          onClose={() => onAdding(false)}
          rejected={!file.lane}
          failing={failing}
        />
      )}
    </>
  );
}

function holds(stage: Stage): boolean {
  return (
    stage.verb === 'Branch' ||
    stage.verb === 'Split' ||
    stage.verb === 'Batch' ||
    (stage.lane?.rules.length ?? 0) > 0
  );
}

/** What is folded away: everything deeper than a folded line, up to the next line that is not. */
function hiddenBehind(lines: Line[], folded: Set<string>): Set<string> {
  const hidden = new Set<string>();
  let depth = -1;
  for (const line of lines) {
    if (depth >= 0 && line.depth > depth) {
      hidden.add(line.id);
      continue;
    }
    depth = line.kind === 'stage' && folded.has(line.id) ? line.depth : -1;
  }
  return hidden;
}

function StageLine({
  line,
  on,
  wrong,
  pale,
  failed,
  counts,
  runId,
  folded,
  onFold,
  onChoose,
}: {
  line: Extract<Line, { kind: 'stage' }>;
  on: boolean;
  wrong: number;
  pale: boolean;
  failed: boolean;
  counts: RunStage | undefined;
  runId: number | undefined;
  folded: boolean;
  onFold?: () => void;
  onChoose: () => void;
}) {
  const { stage } = line;
  const look = lookOf(stage);
  const cardinality = look.cardinality(stage);
  const counted = runId !== undefined && stage.verb !== 'Note' ? counts : undefined;
  // the counts stand behind the detail, the name has the whole line
  const told =
    cardinality.length +
    (counted ? `${counted.entered}`.length + 1 : 0) +
    (counted?.ended ? `${counted.ended}`.length + 2 : 0);
  return (
    <div className={`${css.line} ${on ? css.lineOn : ''} ${pale ? css.linePale : ''}`}>
      <button type="button" className={css.lineButton} onClick={onChoose} aria-current={on}>
        <span className={css.lineNumber}>{line.failing ? '' : line.number.split('.').pop()}</span>
        <span className={`${css.knot} ${failed ? css.knotBad : ''}`} />
        <span className={css.lineText}>
          <span className="clip">
            <b>{stage.verb}</b> {look.object(stage)}
          </span>
          <span className={`dim clip ${css.lineDetail}`} style={{ paddingRight: `${told + 1}ch` }}>
            {wrong > 0 ? (
              <span className="bad">
                {wrong} {wrong === 1 ? 'problem' : 'problems'}
              </span>
            ) : (
              look.detail(stage)
            )}
          </span>
        </span>
      </button>
      <span className={css.lineCounts}>
        {cardinality}
        {counted && (
          <>
            {' '}
            <a href={`/runs/${runId}`} title="records that came here in the last run">
              {counted.entered}
            </a>
          </>
        )}
        {counted && counted.ended > 0 && (
          <>
            {' '}
            <a className="bad" href={`/runs/${runId}?stage=${stage.id}`} title="records that ended here">
              −{counted.ended}
            </a>
          </>
        )}
      </span>
      {onFold && (
        <button type="button" className={css.fold} aria-label={folded ? 'Unfold' : 'Fold'} onClick={onFold}>
          {folded ? '▸' : '▾'}
        </button>
      )}
    </div>
  );
}

/** Everything that can be added, found by typing, each with a sentence that says what it does. */
