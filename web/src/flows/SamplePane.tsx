import { Button, InputNumber, Segmented } from 'antd';
import { useState } from 'react';
import type { Preview } from '../api/types';
import { When } from '../shared/parts';
import css from './flow.module.css';

type Tab = 'In' | 'Sends' | 'Makes' | 'Reply' | 'Rows';

/** The sample record at this point of the flow: what comes in, what goes out, what came back, with its problems. */
export function SamplePane({
  preview, verb, columns, variable, record, calling, onRecord, onCall, onFix, onField,
}: {
  preview: Preview | undefined;
  verb: string;
  columns: string[];
  variable: string;
  record: number;
  calling: boolean;
  onRecord: (record: number) => void;
  onCall: () => void;
  onFix: (path: string) => void;
  onField: (path: string) => void;
}) {
  const tabs: Tab[] = verb === 'Read' ? ['In'] : verb === 'Map' ? ['In', 'Makes'] : verb === 'Write' ? ['In', 'Reply', 'Rows'] : ['In', 'Sends', 'Reply'];
  const [wanted, setWanted] = useState<Tab>('Sends');
  const tab = tabs.includes(wanted) ? wanted : tabs[tabs.length - 1];
  const bad = Object.entries(preview?.fields ?? {}).filter(([, v]) => v.problem);
  const fixable = Object.entries(preview?.fields ?? {}).filter(([, v]) => v.fix);
  const name = (path: string) => path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('}')) + 1);
  /** Two fields of one name are told apart by what is above them. */
  const told = (path: string) => {
    const above = path.slice(0, Math.max(path.lastIndexOf('/{'), 0));
    return above && bad.filter(([other]) => name(other) === name(path)).length > 1 ? `${name(above)}/${name(path)}` : name(path);
  };
  const marks = new Set(bad.map(([path]) => name(path)));
  const kept = preview?.kept;
  const total = preview?.records ?? 0;
  return (
    <>
      <div className={css.sampleHead}>
        <b>Sample</b>
        <span className="dim mono clip">${variable}</span>
        <span className="grow" />
        <Button size="small" aria-label="previous record" disabled={record <= 1} onClick={() => onRecord(record - 1)}>‹</Button>
        <InputNumber size="small" aria-label="sample record" min={1} max={Math.max(1, total)} value={record} controls={false} style={{ width: total > 9999 ? 64 : 46 }} onChange={(n) => n && onRecord(n)} />
        <span className="dim">of {total}</span>
        <Button size="small" aria-label="next record" disabled={record >= total} onClick={() => onRecord(record + 1)}>›</Button>
      </div>
      <div className="row" style={{ padding: '6px 12px' }}>
        <Segmented<Tab> size="small" value={tab} onChange={setWanted} options={tabs} />
        <span className="grow" />
        {verb !== 'Read' && verb !== 'Map' && <Button size="small" loading={calling} onClick={onCall} title="Ctrl Enter">{kept ? 'Call again' : 'Call it'}</Button>}
      </div>
      <div className={css.sampleBody}>
        {tab === 'In' && preview?.sources.map((g) => (
          <table key={g.variable} className={css.in}>
            <caption><span className="mono">${g.variable}</span> {g.title}</caption>
            <tbody>{g.fields.map((f) => <tr key={f.wire}><td style={{ paddingLeft: 12 + f.depth * 10 }}>{f.name}</td><td className="mono">{f.value || <span className="faint">{f.type ? '' : 'empty'}</span>}</td></tr>)}</tbody>
          </table>
        ))}
        {tab === 'Sends' && (
          <pre className="xml" aria-label="message">
            {(preview?.sends ?? '').split('\n').map((line, i) => {
              const local = /<(?:\w+:)?([\w.-]+)/.exec(line)?.[1];
              const wrong = local && marks.has(local) && line.includes('</');
              return <div key={i} className={wrong ? css.wrongLine : undefined}>{line}</div>;
            })}
          </pre>
        )}
        {tab === 'Makes' && <pre className="xml" aria-label="made">{preview?.sends || 'Nothing yet for this record.'}</pre>}
        {tab === 'Reply' && (kept ? (
          <>
            <p className="dim" style={{ padding: '4px 12px', margin: 0 }}>
              {kept.status ? `HTTP ${kept.status}` : 'no answer'} · {kept.millis} ms · kept <When at={kept.calledAt} /> from {preview?.environment}
              {kept.stale && <span className="bad"> · the request changed since</span>}
            </p>
            {kept.failure && <p className="bad" style={{ padding: '0 12px' }}>{kept.failure}</p>}
            <pre className="xml">{kept.reply}</pre>
          </>
        ) : (
          <div style={{ padding: 16 }}>
            <p className="dim">No reply is kept for this record. Call the service once; later stages can then be worked on without calling again.</p>
            <Button type="primary" loading={calling} onClick={onCall}>Call it for this record</Button> <kbd>Ctrl Enter</kbd>
          </div>
        ))}
        {tab === 'Rows' && (preview && preview.rows.length > 0 ? (
          preview.rows.map((row, i) => (
            <table key={i} className={css.in}>
              <caption>row {i + 1} of {preview.rows.length}</caption>
              <tbody>{columns[0] === 'document' ? <tr><td colSpan={2} className="mono" style={{ whiteSpace: 'pre-wrap', width: '100%' }}>{pretty(row[0])}</td></tr> : row.map((v, c) => <tr key={columns[c]}><td>{columns[c]}</td><td className="mono">{v || <span className="faint">empty</span>}</td></tr>)}</tbody>
            </table>
          ))
        ) : (
          <p className="dim" style={{ padding: 16 }}>{kept ? 'This reply gives no row.' : 'No reply is kept for this record: call it first.'}</p>
        ))}
      </div>
      {(bad.length > 0 || fixable.length > 0) && (
        <div className={css.problems}>
          {bad.slice(0, 4).map(([path, v]) => (
            <div key={path}><button type="button" className="linkish bad" onClick={() => onField(path)}><b>{told(path)}</b></button> {v.value && `“${v.value}” `}{v.problem}</div>
          ))}
          {fixable.map(([path, v]) => v.fix && (
            <div key={`fix ${path}`}>
              {!v.problem && <><b>{name(path)}</b>: {v.invalid} of {v.fine + v.empty + v.invalid} samples do not fit. </>}
              <button type="button" className="linkish bad" onClick={() => onFix(path)}>{v.fix.label[0].toUpperCase() + v.fix.label.slice(1)}</button> mends {v.fix.mends}{v.fix.mends < v.fix.of && ` of ${v.fix.of}`}.
            </div>
          ))}
        </div>
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
