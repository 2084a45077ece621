import { App, Tabs } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Flow } from '../api/flow';
import { type Line, outlineLines } from '../api/outline';
import type { PassageLine, Run, Simulator, Way } from '../api/types';
import { lookOf } from '../flows/verbs';
import { When } from '../shared/parts';
import { endLabel } from './ends';
import css from './RunPage.module.css';

const OUTCOME: Record<string, string> = {
  done: 'done',
  'not-done': 'not done',
  undone: 'taken back',
  'in-doubt': 'in doubt',
  claimed: 'in doubt',
};

/** The stages a record came to, in the order of the outline, each call with its tries and what was exchanged. */
export function RecordWay({
  run,
  way: own,
  file,
}: {
  run: Run;
  way: Way | undefined;
  file: Flow['file'] | undefined;
}) {
  if (!own || !file) return null;
  const way = withBatches(own);
  const reached = new Set([...way.stages, ...way.batches.flatMap((b) => b.passages.map((p) => p.stage))]);
  const lines = linesOf(outlineLines(file), reached);
  const elsewhere = way.passages.filter((p) => !reached.has(p.stage));
  return (
    <>
      {lines.length > 0 && (
        <ol className={css.way} aria-label="Way of the record">
          {lines.map((line) => (
            <li key={line.id} style={{ paddingLeft: line.depth * 14 }}>
              {line.kind === 'way' ? (
                <span className="dim">{line.way.label ?? line.way.when ?? 'otherwise'}</span>
              ) : line.kind === 'rule' ? (
                <span className="bad">its failure lane</span>
              ) : (
                <>
                  <span className="dim mono">{line.number}</span> {line.stage.verb}{' '}
                  <b>{lookOf(line.stage).object(line.stage)}</b>
                  {way.line.stage === line.id && <span className="bad"> · ended here</span>}
                  {way.batches
                    .filter((batch) => batch.stage === line.id)
                    .map((batch) => (
                      <div key={batch.path} className={batch.said === 'accepted' ? 'dim' : 'bad'}>
                        {batch.position} of {batch.of} in its batch
                        {batch.said ? `, ${batch.said.replace('-', ' ')}` : ''}
                        {batch.first !== way.line.ordinal && (
                          <>
                            {' '}
                            · kept under{' '}
                            <Link to={`/runs/${run.id}?record=${batch.first}`}>record {batch.first}</Link>
                          </>
                        )}
                      </div>
                    ))}
                  {way.numbers
                    .filter((number) => number.stage === line.id)
                    .map((number) => (
                      <div key={`${number.path} ${number.series}`} className="dim">
                        <b>{itemText(number.path)}</b>
                        {number.series} <span className="mono">{number.text}</span>
                        {number.givenBack && ', given back'}
                      </div>
                    ))}
                  {way.items
                    .filter((item) => item.stage === line.id)
                    .map((item) => (
                      <div key={item.path} className={item.ended === 'left-out' ? 'dim' : 'bad'}>
                        <b>{itemText(item.path)}</b>
                        {endLabel(item.ended)} here{item.message && `: ${item.message}`}
                      </div>
                    ))}
                  {passagesOf(way, line.id).map((p) => (
                    <Passage key={`${p.path} ${p.number}`} run={run} way={way} passage={p} />
                  ))}
                </>
              )}
            </li>
          ))}
        </ol>
      )}
      {way.passages.length === 0 && <p className="dim">Nothing was sent for this record.</p>}
      {elsewhere.map((p) => (
        <div key={`${p.path} ${p.stage} ${p.number}`}>
          <b>{p.stage}</b>
          <Passage run={run} way={way} passage={p} />
        </div>
      ))}
    </>
  );
}

/** What its batches did counts as the record's own, though it is kept under another one. */
function withBatches(way: Way): Way {
  return {
    ...way,
    passages: [...way.passages, ...way.batches.flatMap((b) => b.passages)],
    attempts: [...way.attempts, ...way.batches.flatMap((b) => b.attempts)],
    exchanges: [...way.exchanges, ...way.batches.flatMap((b) => b.exchanges)],
  };
}

/** Returns the lines of the stages that were reached, and of the ways and lanes these stand in. */
function linesOf(lines: Line[], reached: Set<string>): Line[] {
  return lines.filter((line, i) => {
    if (line.kind === 'stage') return reached.has(line.id) && line.stage.verb !== 'Note';
    // what stands in it follows it, deeper
    for (const inside of lines.slice(i + 1)) {
      if (inside.kind === 'stage' && inside.block === line.id && reached.has(inside.id)) return true;
      if (inside.kind !== 'stage' && inside.depth <= line.depth) return false;
    }
    return false;
  });
}

/** Returns which item a path leads to: `crates:3/papers:1` is item 3.1; nothing for the record itself. */
function itemText(path: string): string {
  const items = path
    .split('/')
    .filter((step) => step.includes(':'))
    .map((step) => step.slice(step.lastIndexOf(':') + 1))
    .filter((step) => step !== '' && step !== 'undo');
  return items.length > 0 ? `item ${items.join('.')} ` : '';
}

function passagesOf(way: Way, stage: string): PassageLine[] {
  return way.passages.filter((p) => p.stage === stage);
}

/** One effect of the record: its tries, and what was sent and answered where that was kept. */
function Passage({ run, way, passage }: { run: Run; way: Way; passage: PassageLine }) {
  const { message } = App.useApp();
  const its = (of: { path: string; stage: string; number: number }) =>
    of.path === passage.path && of.stage === passage.stage && of.number === passage.number;
  const exchange = way.exchanges.find(its);
  const attempts = way.attempts.filter(its);
  const teach = async () => {
    try {
      const body = { run: run.id, record: way.line.ordinal };
      const taught = await api.post<Simulator>('/simulator-lessons', body);
      void message.success(`Asked the same, the simulator ${taught.name} answers so from now on`);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <section aria-label={`passage ${passage.stage}`} className={css.passage}>
      <span className={passage.outcome === 'done' || passage.outcome === 'undone' ? 'dim' : 'bad'}>
        {!way.batches.some((b) => b.path === passage.path) && <b>{itemText(passage.path)}</b>}
        {passage.path.startsWith('earlier/') && 'of what an earlier run did: '}
        {OUTCOME[passage.outcome] ?? passage.outcome}
        {passage.changes && ', changes data'}
      </span>
      {attempts.map((a) => (
        <div key={a.attempt} className={css.attempt}>
          <span className="num">{a.attempt}</span>
          <span className="dim">
            <When at={a.startedAt} />
          </span>
          <span className="num">{a.millis} ms</span>
          <span>{a.status ? `HTTP ${a.status}` : a.sent ? 'sent, no answer' : 'not sent'}</span>
          <span className="bad clip grow">{a.failure}</span>
        </div>
      ))}
      {attempts.length === 0 && <p className="dim">Known from before the run was interrupted.</p>}
      {exchange ? (
        <details open={passage.outcome !== 'done' || way.passages.length === 1}>
          <summary>what was sent and answered</summary>
          <Tabs
            size="small"
            items={[
              {
                key: 'sent',
                label: 'Sent',
                children: (
                  <>
                    <p className="mono dim">{exchange.address}</p>
                    <pre className="xml">{exchange.request}</pre>
                  </>
                ),
              },
              ...(exchange.reply
                ? [
                    {
                      key: 'answered',
                      label: `Answered${exchange.status ? ` · HTTP ${exchange.status}` : ''}`,
                      children: <pre className="xml">{exchange.reply}</pre>,
                    },
                  ]
                : []),
            ]}
          />
        </details>
      ) : (
        attempts.length > 0 && (
          <p className="dim">The exchange was not kept: this call keeps only failures and the first ten.</p>
        )
      )}
      {exchange?.reply && (
        <button type="button" className="linkish" onClick={() => void teach()}>
          Teach the simulator this answer
        </button>
      )}
    </section>
  );
}
