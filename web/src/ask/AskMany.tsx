import { Button, Input, Progress } from 'antd';
import { useMemo, useState } from 'react';
import type { AskPage } from '../api/types';
import css from './ask.module.css';
import { pastedRows, type Typed, wrong } from './record';

const MOST = 5_000;
const LISTED = 5;

/** Many records, pasted from a spreadsheet. */
export function AskMany({
  page,
  going,
  ask,
  cancel,
}: {
  page: AskPage;
  going: number;
  ask: (rows: Typed[]) => Promise<unknown>;
  cancel: () => void;
}) {
  const [pasted, setPasted] = useState('');
  const [total, setTotal] = useState(0);
  const { rows, columns } = useMemo(() => pastedRows(pasted, page.fields), [pasted, page.fields]);
  const labels = Object.fromEntries(page.fields.map((f) => [f.name, f.label]));
  const problems = useMemo(
    () =>
      rows.flatMap((row, i) =>
        Object.entries(wrong(page.fields, row)).map(([name, what]) => ({ row: i + 1, name, what })),
      ),
    [rows, page.fields],
  );
  const shown = page.fields.filter((f) => !f.hidden);
  const left = columns.filter((c) => !c).length;
  return (
    <div className={css.form}>
      <span className="dim">
        Copy rows in a spreadsheet and paste them here: with their heads, or in the order{' '}
        {shown.map((f) => f.label).join(', ')}.
      </span>
      <Input.TextArea
        className="mono"
        aria-label="Pasted rows"
        wrap="off"
        autoSize={{ minRows: 6, maxRows: 14 }}
        value={pasted}
        onChange={(e) => setPasted(e.target.value)}
      />
      {rows.length > 0 && (
        <span>
          {rows.length === 1 ? '1 row' : `${rows.length} rows`}:{' '}
          {columns
            .filter((c) => c !== undefined)
            .map((c) => labels[c])
            .join(', ')}
          {left > 0 && <span className="bad"> · {left} columns are no field and are left out</span>}
        </span>
      )}
      {rows.length > MOST && <span className="bad">At most {MOST} rows at once: paste fewer.</span>}
      {problems.length > 0 && (
        <div role="alert" className="bad">
          {problems.slice(0, LISTED).map((p) => (
            <div key={`${p.row} ${p.name}`}>
              Row {p.row}: {labels[p.name]} {p.what}
            </div>
          ))}
          {problems.length > LISTED && <div>and {problems.length - LISTED} more</div>}
        </div>
      )}
      <div className="row">
        <Button
          type="primary"
          disabled={rows.length === 0 || rows.length > MOST || problems.length > 0 || going > 0}
          onClick={() => {
            setTotal(rows.length);
            void ask(rows);
          }}
        >
          {rows.length > 1 ? `Ask ${rows.length} rows` : 'Ask'}
        </Button>
        {going > 0 && (
          <>
            <Progress className="grow" percent={Math.floor((100 * (total - going)) / total)} />
            <Button onClick={cancel}>Cancel</Button>
          </>
        )}
      </div>
    </div>
  );
}
