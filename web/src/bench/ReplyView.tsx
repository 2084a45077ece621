import { Segmented } from 'antd';
import { useState } from 'react';
import type { BenchCall } from '../api/types';
import { MessageSheet } from '../shared/MessageSheet';
import css from './BenchPage.module.css';

type View = 'Sheet' | 'Tidy' | 'Exact' | 'Headers';

/** What came back: as the reply's sheet, as tidy or exact text, its HTTP headers; and how long it took. */
export function ReplyView({ contract, at, call }: { contract: number; at: { service?: string; port?: string; operation?: string }; call: BenchCall | undefined }) {
  const [wanted, setView] = useState<View>('Tidy');
  // a fault has no rows in the reply's sheet
  const view = wanted === 'Sheet' && call?.failure ? 'Tidy' : wanted;
  const values = new Map(call?.values.map((f) => [f.target, f.constant ?? '']));
  const picks = call?.values.filter((f) => f.pick || /[~#]/.test(f.target.replace(/\{[^}]*\}/g, ''))).map((f) => f.target) ?? [];
  const look = call?.state === 'done' ? 'fine' : call?.state === 'running' ? '' : call?.state === 'cancelled' ? 'caution' : 'failure';
  return (
    <div className={css.side} data-reply={call?.state}>
      <div className={css.tools}>
        <b>Reply</b>
        {call?.reply !== undefined && <Segmented<View> size="small" value={view} onChange={setView} options={['Sheet', 'Tidy', 'Exact', 'Headers']} />}
        <span className="grow" />
        {call && (
          <>
            <span className={`chip ${look}`}>{call.state}</span>
            {call.status > 0 && <span className={call.status >= 400 ? 'bad' : ''}>HTTP {call.status}</span>}
            {call.state !== 'running' && <span className="dim" title={`${call.requestBytes.toLocaleString('en')} bytes sent, ${call.replyBytes.toLocaleString('en')} received`}>{call.millis} ms · {call.replyBytes.toLocaleString('en')} B</span>}
          </>
        )}
      </div>
      {!call && <p className="dim" style={{ padding: 14 }}>Fill what is required and send (<kbd>Ctrl Enter</kbd>): what comes back stands here, and every call is kept at the right.</p>}
      {call?.state === 'running' && <p className="dim" style={{ padding: 14 }}>Waiting for {call.address} …</p>}
      {call?.failure && <div className={css.problems}>{call.failure}</div>}
      {call?.reply !== undefined && view === 'Sheet' && (
        <>
          <MessageSheet contract={contract} at={{ ...at, message: 'reply' }} picks={picks} keys={false} cell={(row) => <span className="mono clip" title={values.get(row.path)}>{values.get(row.path)}</span>} />
          {call.notes.length > 0 && <div className={css.problems}>{call.notes.map((n) => <div key={n}>{n}</div>)}</div>}
        </>
      )}
      {call?.reply !== undefined && view === 'Tidy' && <pre className="xml" style={{ flex: 1 }}>{call.tidy}</pre>}
      {call?.reply !== undefined && view === 'Exact' && <pre className="xml" style={{ flex: 1, whiteSpace: 'pre-wrap', overflowWrap: 'anywhere' }}>{call.reply}</pre>}
      {call?.reply !== undefined && view === 'Headers' && (
        <table className={css.headers}><tbody>{Object.entries(call.headers).map(([name, value]) => <tr key={name}><td className="dim">{name}</td><td className="mono">{value}</td></tr>)}</tbody></table>
      )}
    </div>
  );
}
