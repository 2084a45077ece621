import { Input, Tooltip } from 'antd';
import { useState } from 'react';
import { api, ApiProblem } from '../api/client';
import type { Correction, RecordVerdict } from '../api/types';
import css from './correct.module.css';

/** One field of a record: what came in, what it is now; what the flow says of it is asked while it is typed. */
export function CorrectCell({
  run,
  correction,
  field,
  inForce,
  onKept,
}: {
  run: number;
  correction: Correction;
  field: string;
  inForce: boolean;
  onKept: () => void;
}) {
  const was = correction.fields[field] ?? '';
  const kept = correction.edits[field] ?? was;
  const [text, setText] = useState(kept);
  const [verdict, setVerdict] = useState<RecordVerdict>();
  const [error, setError] = useState<string>();
  const path = `/runs/${run}/corrections/${correction.ordinal}`;
  const edits = (value: string) => ({ ...correction.edits, [field]: value });
  const type = async (value: string) => {
    setText(value);
    try {
      setVerdict(
        await api.post<RecordVerdict>(`${path}/verdict?inForce=${inForce}`, { edits: edits(value) }),
      );
    } catch {
      // the next key asks again, and keeping it tells what is wrong
    }
  };
  const keep = async () => {
    if (text === kept) return;
    setError(undefined);
    try {
      await api.put(path, { edits: edits(text) }, { 'If-Match': `"${correction.version}"` });
      onKept();
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
      if (e instanceof ApiProblem && e.status === 409) onKept();
    }
  };
  const wrong = verdict?.state === 'wrong';
  const said = error ?? (wrong ? verdict.message : text === was ? undefined : `came in as “${was}”`);
  const look = [
    css.cell,
    field === correction.blamed ? css.blamed : '',
    text !== was ? css.changed : '',
    wrong ? css.wrong : verdict?.state === 'fine' ? css.fine : '',
  ].join(' ');
  return (
    <Tooltip title={said} open={error || (wrong && text !== kept) ? true : undefined}>
      <Input
        size="small"
        className={look}
        style={{ width: `${Math.min(34, Math.max(8, text.length + 3))}ch` }}
        aria-label={`${field} of ${correction.key ?? correction.ordinal}`}
        value={text}
        onChange={(e) => void type(e.target.value)}
        onBlur={() => void keep()}
        onPressEnter={(e) => e.currentTarget.blur()}
        onKeyDown={(e) => e.key === 'Escape' && setText(kept)}
      />
    </Tooltip>
  );
}
