import { Segmented } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import type { BenchCall } from '../api/types';
import { MessageSheet } from '../shared/MessageSheet';
import css from './BenchPage.module.css';
import { KeepCall } from './KeepCall';

type View = 'Sheet' | 'Tidy' | 'Exact' | 'Headers' | 'Sent';

/** Causes that the endpoint's settings have to do with. */
const ABOUT_ENDPOINT =
  /certificate|TLS|token|HTTP 40[137]|security|password|timestamp|clock|understood|signature|genuine|connection/;

/** What came back: as the reply's sheet, as tidy or exact text, its HTTP headers; and how long it took. */
export function ReplyView({
  contract,
  at,
  call,
  endpoint,
}: {
  contract: number;
  at: { service?: string; port?: string; operation?: string };
  call: BenchCall | undefined;
  endpoint?: number;
}) {
  const [wanted, setView] = useState<View>('Tidy');
  // a fault has no rows in the reply's sheet
  const view = call?.reply === undefined ? 'Sent' : wanted === 'Sheet' && call.failure ? 'Tidy' : wanted;
  const values = new Map(call?.values.map((f) => [f.target, f.constant ?? '']));
  const picks =
    call?.values
      .filter((f) => f.pick || /[~#]/.test(f.target.replace(/\{[^}]*\}/g, '')))
      .map((f) => f.target) ?? [];
  const look =
    call?.state === 'done'
      ? 'fine'
      : call?.state === 'running'
        ? ''
        : call?.state === 'cancelled'
          ? 'caution'
          : 'failure';
  return (
    <div className={css.side} data-reply={call?.state}>
      <div className={css.tools}>
        <b>Reply</b>
        {call && call.state !== 'running' && (
          <Segmented<View>
            size="small"
            value={view}
            onChange={setView}
            options={call.reply === undefined ? ['Sent'] : ['Sheet', 'Tidy', 'Exact', 'Headers', 'Sent']}
          />
        )}
        <span className="grow" />
        {call?.reply !== undefined && <KeepCall call={call} />}
      </div>
      {call && (
        <div className={css.status}>
          <span className={`chip ${look}`}>{call.state}</span>
          {call.status > 0 && <span className={call.status >= 400 ? 'bad' : ''}>HTTP {call.status}</span>}
          {call.state !== 'running' && <Times call={call} />}
        </div>
      )}
      {!call && (
        <p className="dim pad-l">
          Fill what is required and send (<kbd>Ctrl Enter</kbd>): what comes back stands here, and every call
          is kept at the right.
        </p>
      )}
      {call?.state === 'running' && <p className="dim pad-l">Waiting for {call.address} …</p>}
      {call?.failure && (
        <div className={css.problems}>
          {call.failure}
          {endpoint !== undefined && ABOUT_ENDPOINT.test(call.cause ?? '') && (
            <>
              {' '}
              <Link to={`/endpoints/${endpoint}?environment=${call.environment}`}>Look at the endpoint</Link>
            </>
          )}
        </div>
      )}
      {call && call.attachments.length > 0 && (
        <div className={css.parts}>
          <span className="dim">Beside the envelope:</span>
          {call.attachments.map((a) => (
            <a key={a.position} href={`/api/bench/calls/${call.id}/attachments/${a.position}`} download>
              {a.type.replace(/;.*/, '')} · {a.bytes.toLocaleString('en')} B
            </a>
          ))}
        </div>
      )}
      {call?.reply !== undefined && view === 'Sheet' && (
        <>
          <MessageSheet
            contract={contract}
            at={{ ...at, message: 'reply' }}
            picks={picks}
            keys={false}
            cell={(row) => (
              <span className="mono clip" title={values.get(row.path)}>
                {values.get(row.path)}
              </span>
            )}
          />
          {call.notes.length > 0 && (
            <div className={css.problems}>
              {call.notes.map((n) => (
                <div key={n}>{n}</div>
              ))}
            </div>
          )}
        </>
      )}
      {call?.reply !== undefined && view === 'Tidy' && <pre className="xml fills">{call.tidy}</pre>}
      {call?.reply !== undefined && view === 'Exact' && (
        <pre className="xml fills keeps-lines anywhere">{call.reply}</pre>
      )}
      {call?.reply !== undefined && view === 'Headers' && <Headers headers={call.headers} />}
      {call && call.state !== 'running' && view === 'Sent' && (
        <div className="scrolls fills">
          <p className="dim pad-over">
            {call.status > 0 ? 'What really went out to' : 'What was made ready for'}{' '}
            <span className="mono">{call.address}</span>, secrets hidden.
          </p>
          <Headers headers={call.sentHeaders} />
          <pre className="xml keeps-lines anywhere">{call.sent ?? 'Nothing was sent.'}</pre>
        </div>
      )}
    </div>
  );
}

/** HTTP headers, one a line. */
function Headers({ headers }: { headers: Record<string, string> }) {
  return (
    <table className={css.headers}>
      <tbody>
        {Object.entries(headers).map(([name, value]) => (
          <tr key={name}>
            <td className="dim">{name}</td>
            <td className="mono">{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where the time went; name, connection and TLS come from a connection of its own. */
function Times({ call }: { call: BenchCall }) {
  const steps: [string, number | undefined][] = [
    ['name', call.nameMillis],
    ['connect', call.connectMillis],
    ['TLS', call.tlsMillis],
    ['first byte', call.firstByteMillis],
  ];
  return (
    <>
      <span className="dim" title="from sending to the last byte">
        {call.millis} ms
      </span>
      <span className="faint clip" title="name, connect and TLS were measured on a connection of their own">
        {steps
          .filter(([, millis]) => millis !== undefined)
          .map(([name, millis]) => `${name} ${millis}`)
          .join(' · ')}
      </span>
      <span className="grow" />
      <span className="dim" title="bytes sent and received">
        {call.requestBytes.toLocaleString('en')} → {call.replyBytes.toLocaleString('en')} B
      </span>
    </>
  );
}
