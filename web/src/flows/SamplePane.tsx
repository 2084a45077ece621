import { Button, Segmented, Select } from 'antd';
import { useState } from 'react';
import type { BatchStage, CallStage, FailureClass, Stage, SplitStage } from '../api/flow';
import { allInside } from '../api/outline';
import type { Preview } from '../api/types';
import { When } from '../shared/parts';
import css from './flow.module.css';
import { SampleStep } from './SampleStep';
import { lookOf, type Tab } from './verbs';

/** Calls that are supposed to fail, and how. */
export type Suppose = Record<string, FailureClass>;

/** The sample record at this point of the flow: what comes in, what goes out, what came back, with its problems. */
export function SamplePane({
  preview,
  stage,
  stages,
  call,
  variable,
  record,
  calling,
  splits,
  items,
  onItem,
  suppose,
  onSuppose,
  onRecord,
  onCall,
  onFix,
  onField,
  onChoose,
}: {
  preview: Preview | undefined;
  stage: Stage;
  stages: Stage[];
  /** The call that Call it makes. */
  call: CallStage | undefined;
  variable: string;
  record: number;
  calling: boolean;
  /** The Splits the stage is within, and which item of each is shown. */
  splits: SplitStage[];
  items: Record<string, number>;
  onItem: (split: string, item: number) => void;
  suppose: Suppose;
  onSuppose: (suppose: Suppose) => void;
  onRecord: (record: number) => void;
  onCall: () => void;
  onFix: (path: string) => void;
  onField: (path: string) => void;
  onChoose: (stage: string) => void;
}) {
  const tabs = lookOf(stage).tabs(stage);
  const { verb } = stage;
  const columns =
    'columns' in stage ? (stage.document ? ['document'] : (stage.columns ?? []).map((c) => c.name)) : [];
  const [wanted, setWanted] = useState<Tab>('Sends');
  const tab = tabs.includes(wanted) ? wanted : tabs[Math.max(0, tabs.length - 2)];
  const bad = Object.entries(preview?.fields ?? {}).filter(([, v]) => v.problem);
  const fixable = Object.entries(preview?.fields ?? {}).filter(([, v]) => v.fix);
  const name = (path: string) => path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')) + 1);
  /** Two fields of one name are told apart by what is above them. */
  const told = (path: string) => {
    const above = path.slice(0, Math.max(path.lastIndexOf('/{'), 0));
    return above && bad.filter(([other]) => name(other) === name(path)).length > 1
      ? `${name(above)}/${name(path)}`
      : name(path);
  };
  const marks = new Set(bad.map(([path]) => name(path)));
  const kept = preview?.kept;
  // a way without an end waits for the reply of the last call it came to
  const unknown =
    preview?.way && !preview.way.end
      ? stages.filter((s) => s.verb === 'Call' && preview.way?.reached.includes(s.id)).pop()
      : undefined;
  const before = unknown && call && unknown.id !== call.id ? unknown : undefined;
  const total = preview?.records ?? 0;
  const away =
    preview?.way?.end !== undefined && stage.verb !== 'Note' && !preview.way.reached.includes(stage.id);
  const nearest = preview?.way?.comesHere;
  const batches = stages.filter(
    (s): s is BatchStage =>
      s.verb === 'Batch' &&
      (s.id === stage.id || allInside(s.stages).some((inner) => inner.id === stage.id)) &&
      preview?.way?.batches[s.id] !== undefined,
  );
  const ending = stages.find((s) => s.id === preview?.way?.endedAt);
  return (
    <>
      <SampleStep
        what="record"
        title={
          <>
            <b>Sample</b>
            <span className="dim mono clip">${variable}</span>
          </>
        }
        at={record}
        total={total}
        onAt={onRecord}
      />
      {splits.map((split) => (
        <SampleStep
          key={split.id}
          what={split.item ?? 'item'}
          title={<span className="dim mono clip">${split.item ?? 'item'}</span>}
          at={Math.min(items[split.id] ?? 1, preview?.way?.items[split.id] ?? 1)}
          total={preview?.way?.items[split.id] ?? 0}
          onAt={(item) => onItem(split.id, item)}
        />
      ))}
      {batches.map((batch) => (
        <div key={batch.id} className={css.sampleHead}>
          <span className="dim mono clip">${batch.batch}</span>
          <span className="grow" />
          <span className="dim">
            {variable} is {preview?.way?.batches[batch.id]?.position} of {preview?.way?.batches[batch.id]?.of}{' '}
            here
          </span>
        </div>
      ))}
      <div className="row pad-row tight">
        <Segmented<Tab> size="small" value={tab} onChange={setWanted} options={tabs} />
        <span className="grow" />
        {call?.operation && verb !== 'Read' && (
          <Button
            size="small"
            loading={calling}
            onClick={onCall}
            title={
              before
                ? `${lookOf(before).object(before)} and what follows up to ${call.operation}: Ctrl Enter`
                : `${call.operation} for this record: Ctrl Enter`
            }
          >
            {before ? 'Up to here' : kept ? 'Call again' : 'Call it'}
          </Button>
        )}
      </div>
      <div className={css.sampleBody}>
        {tab === 'In' &&
          preview?.sources.map((g) => (
            <table key={g.variable} className={css.in}>
              <caption>
                <span className="mono">${g.variable}</span> {g.title}
              </caption>
              <tbody>
                {g.fields.map((f, at) => (
                  <tr key={f.wire}>
                    <td style={{ paddingLeft: 12 + f.depth * 10 }}>{f.name}</td>
                    <td className="mono">
                      {f.value || (
                        <span className="faint">
                          {f.type || (g.fields[at + 1]?.depth ?? 0) > f.depth ? '' : 'empty'}
                        </span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          ))}
        {tab === 'Sends' && preview && !preview.sends && unknown && (
          <p className="dim pad-l">
            The sample does not come here before <b>{lookOf(unknown).object(unknown)}</b> has answered:{' '}
            <i>Up to here</i> makes that call first. A call that changes data asks before.
          </p>
        )}
        {tab === 'Sends' && away && preview?.sends && (
          <p className="dim pad-l">What would be sent if the record were rejected later.</p>
        )}
        {['Sends', 'Makes', 'Rows'].includes(tab) && away && !preview?.sends && (
          <p className="dim pad-l">
            The sample does not come here: it{' '}
            {ending ? (
              <>
                {preview?.way?.end === 'left-out' ? 'is left out at' : 'ends at'}{' '}
                <button type="button" className="linkish" onClick={() => onChoose(ending.id)}>
                  {ending.verb} {lookOf(ending).object(ending)}
                </button>
                .
              </>
            ) : (
              'goes another way.'
            )}{' '}
            {nearest ? (
              <button type="button" className="linkish" onClick={() => onRecord(nearest)}>
                Record {nearest} comes here
              </button>
            ) : (
              'No other sample is known to come here.'
            )}
          </p>
        )}
        {tab === 'Sends' && preview?.sends && (
          <pre className="xml" aria-label="message">
            {(preview?.sends ?? '').split('\n').map((line, i) => {
              const local = /<(?:\w+:)?([\w.-]+)/.exec(line)?.[1];
              const wrong = local && marks.has(local) && line.includes('</');
              return (
                <div key={i} className={wrong ? css.wrongLine : undefined}>
                  {line}
                </div>
              );
            })}
          </pre>
        )}
        {tab === 'Makes' && !away && (
          <pre className="xml" aria-label="made">
            {preview?.sends || 'Nothing yet for this record.'}
          </pre>
        )}
        {tab === 'Reply' &&
          (kept ? (
            <>
              <p className="dim pad-row flush">
                {kept.status ? `HTTP ${kept.status}` : 'no answer'} · {kept.millis} ms · kept{' '}
                <When at={kept.calledAt} /> from {preview?.environment}
                {kept.stale && <span className="bad"> · the request changed since</span>}
              </p>
              {kept.failure && <p className="bad pad-sides">{kept.failure}</p>}
              <pre className="xml">{kept.reply}</pre>
            </>
          ) : (
            <div className="pad-l">
              <p className="dim">
                No reply is kept for this record. Call the service once; later stages can then be worked on
                without calling again.
              </p>
              <Button type="primary" loading={calling} onClick={onCall}>
                Call it for this record
              </Button>{' '}
              <kbd>Ctrl Enter</kbd>
            </div>
          ))}
        {tab === 'Way' && (
          <SampleWay
            preview={preview}
            stages={stages}
            suppose={suppose}
            onSuppose={onSuppose}
            onChoose={onChoose}
          />
        )}
        {tab === 'Rows' &&
          !away &&
          (preview && preview.rows.length > 0 ? (
            preview.rows.map((row, i) => (
              <table key={i} className={css.in}>
                <caption>
                  row {i + 1} of {preview.rows.length}
                </caption>
                <tbody>
                  {columns[0] === 'document' ? (
                    <tr>
                      <td colSpan={2} className="mono keeps-lines full">
                        {pretty(row[0])}
                      </td>
                    </tr>
                  ) : (
                    row.map((v, c) => (
                      <tr key={columns[c]}>
                        <td>{columns[c]}</td>
                        <td className="mono">{v || <span className="faint">empty</span>}</td>
                      </tr>
                    ))
                  )}
                </tbody>
              </table>
            ))
          ) : (
            <p className="dim pad-l">
              {kept ? 'This reply gives no row.' : 'No reply is kept for this record: call it first.'}
            </p>
          ))}
      </div>
      {(bad.length > 0 || fixable.length > 0) && (
        <div className={css.problems}>
          {bad.slice(0, 4).map(([path, v]) => (
            <div key={path}>
              <button type="button" className="linkish bad" onClick={() => onField(path)}>
                <b>{told(path)}</b>
              </button>{' '}
              {v.value && `“${v.value}” `}
              {v.problem}
            </div>
          ))}
          {fixable.map(
            ([path, v]) =>
              v.fix && (
                <div key={`fix ${path}`}>
                  {!v.problem && (
                    <>
                      <b>{name(path)}</b>: {v.invalid} of {v.fine + v.empty + v.invalid} samples do not
                      fit.{' '}
                    </>
                  )}
                  <button type="button" className="linkish bad" onClick={() => onFix(path)}>
                    {v.fix.label[0].toUpperCase() + v.fix.label.slice(1)}
                  </button>{' '}
                  mends {v.fix.mends}
                  {v.fix.mends < v.fix.of && ` of ${v.fix.of}`}.
                </div>
              ),
          )}
        </div>
      )}
    </>
  );
}

const HOW: { value: FailureClass; label: string }[] = [
  { value: 'fault', label: 'a fault' },
  { value: 'timeout', label: 'a time-out' },
  { value: 'connection', label: 'no connection' },
];
const ENDS: Record<string, string> = {
  done: 'comes to the end',
  rejected: 'is rejected',
  'left-out': 'is left out',
  'in-doubt': 'is in doubt',
};

/** How the sample goes through the whole flow; a call can be supposed to fail, to see what its lane does. */
function SampleWay({
  preview,
  stages,
  suppose,
  onSuppose,
  onChoose,
}: {
  preview: Preview | undefined;
  stages: Stage[];
  suppose: Suppose;
  onSuppose: (suppose: Suppose) => void;
  onChoose: (stage: string) => void;
}) {
  const way = preview?.way;
  if (!way) return <p className="dim pad-l">There is no record to follow yet.</p>;
  const set = (id: string, how: FailureClass | undefined) => {
    const others = Object.entries(suppose).filter(([at]) => at !== id);
    onSuppose(Object.fromEntries(how ? [...others, [id, how]] : others));
  };
  return (
    <>
      <ol className={css.sampleWay} aria-label="Way of the sample">
        {stages
          .filter((s) => way.reached.includes(s.id))
          .map((s) => (
            <li key={s.id}>
              <button type="button" className="linkish" onClick={() => onChoose(s.id)}>
                <b>{s.verb}</b>
              </button>
              <span className="clip grow">
                {lookOf(s).object(s)}
                {s.verb === 'Branch' && way.ways[s.id] !== undefined && (
                  <span className={css.wired}>
                    {' '}
                    →{' '}
                    {way.ways[s.id] < 0
                      ? 'none'
                      : s.ways[way.ways[s.id]]?.label || s.ways[way.ways[s.id]]?.when || 'otherwise'}
                  </span>
                )}
                {way.failures[s.id] && (
                  <span className="bad" title={way.failures[s.id]}>
                    {' '}
                    {way.failures[s.id]}
                  </span>
                )}
              </span>
              {s.verb === 'Call' && (
                <Select
                  size="small"
                  variant="borderless"
                  aria-label={`Suppose ${s.operation ?? s.id}`}
                  allowClear
                  placeholder="suppose …"
                  className="field-m rigid"
                  popupMatchSelectWidth={false}
                  value={suppose[s.id]}
                  options={HOW}
                  onChange={(how?: FailureClass) => set(s.id, how)}
                />
              )}
            </li>
          ))}
      </ol>
      <p
        style={{ padding: '0 12px' }}
        className={way.end === 'rejected' || way.end === 'in-doubt' ? 'bad' : 'dim'}
      >
        {way.end
          ? `The sample ${ENDS[way.end] ?? way.end}${way.failure ? `: ${way.failure}` : ''}.`
          : 'Nothing is kept of that call for this record: call it to go on.'}
      </p>
      {way.answer && (
        <>
          <p className="dim pad-sides flush">Answers with status {way.answer.status}</p>
          <pre className="xml">{pretty(way.answer.body ?? '')}</pre>
        </>
      )}
    </>
  );
}

function pretty(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text.replace(/></g, '>\n<');
  }
}
