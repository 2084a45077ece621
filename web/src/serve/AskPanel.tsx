import { Button, Input } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';

type Said = { status: number; body: string; record: string | null; millis: number };

function tidy(text: string): string {
  try {
    return JSON.stringify(JSON.parse(text), null, 2);
  } catch {
    return text;
  }
}

/** Asks a flow that answers callers, as a caller does. */
export function AskPanel({ path, known, sample }: { path: string; known: string; sample: string }) {
  const [at, setAt] = useState(path);
  const [key, setKey] = useState(known);
  const [body, setBody] = useState(sample);
  const [said, setSaid] = useState<Said>();
  const [error, setError] = useState<string>();
  const [busy, setBusy] = useState(false);
  const send = async () => {
    setBusy(true);
    setError(undefined);
    const begun = performance.now();
    try {
      const answer = await fetch(at, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', ...(key ? { 'X-Api-Key': key } : {}) },
        body,
      });
      setSaid({
        status: answer.status,
        body: tidy(await answer.text()),
        record: answer.headers.get('Wire-Kettle-Record'),
        millis: Math.round(performance.now() - begun),
      });
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
    setBusy(false);
  };
  const [run, record] = said?.record?.split('/') ?? [];
  return (
    <div className="stack">
      <div className="row">
        {path.includes('{') ? (
          <Input
            size="small"
            className="mono grow"
            aria-label="Address"
            addonBefore="POST"
            title="say its fields in the place of the braces"
            value={at}
            onChange={(e) => setAt(e.target.value)}
          />
        ) : (
          <span className="mono grow clip">POST {path}</span>
        )}
        <Input
          size="small"
          className="mono field-3xl"
          aria-label="Key"
          placeholder="the caller’s key"
          value={key}
          onChange={(e) => setKey(e.target.value)}
        />
        <Button size="small" type="primary" loading={busy} onClick={() => void send()}>
          Send
        </Button>
      </div>
      <Input.TextArea
        className="mono"
        aria-label="Request"
        autoSize={{ minRows: 4, maxRows: 12 }}
        value={body}
        onChange={(e) => setBody(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) void send();
        }}
      />
      {error && <p className="bad flush">{error}</p>}
      {said && (
        <div aria-label="Answer">
          <p className="row flush">
            <span className={`chip ${said.status < 400 ? 'fine' : 'failure'}`}>{said.status}</span>
            <span className="dim">{said.millis} ms</span>
            {run && (
              <Link to={`/runs/${run}?record=${record}`}>
                record {record} of run {run}
              </Link>
            )}
          </p>
          <pre className="mono flush keeps-lines anywhere">{said.body || 'no content'}</pre>
        </div>
      )}
    </div>
  );
}
