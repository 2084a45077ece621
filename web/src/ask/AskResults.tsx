import { App, Button, Grid, Input, Table } from 'antd';
import { useEffect, useRef, useState } from 'react';
import type { AskPage } from '../api/types';
import css from './ask.module.css';
import { csv } from './record';
import type { Result } from './useAsking';

const CARDS = 20;

type Column = { key: string; title: string; of: (r: Result) => string };

/** What came back, the newest first; it stays while the next is asked. */
export function AskResults({
  page,
  results,
  clear,
}: {
  page: AskPage;
  results: Result[];
  clear: () => void;
}) {
  const [find, setFind] = useState('');
  const [cards, setCards] = useState(CARDS);
  const wide = Grid.useBreakpoint().md ?? true;
  const typed = typedColumns(page, results);
  const came = cameColumns(page, results);
  const columns = [...typed, ...came];
  const top = useRef<HTMLElement>(null);
  const newest = results[0]?.key;
  useEffect(() => {
    // on a telephone the answer is below what is typed
    if (newest && !wide) top.current?.scrollIntoView({ behavior: 'smooth' });
  }, [newest, wide]);
  const wanted = find.toLowerCase();
  const text = (r: Result) => [...columns.map((c) => c.of(r)), r.problem ?? ''].join(' ').toLowerCase();
  const shown = wanted ? results.filter((r) => text(r).includes(wanted)) : results;
  const download = () => {
    const heads = [...columns.map((c) => c.title), 'State', 'Problem', 'Record'];
    const rows = [...shown]
      .reverse()
      .map((r) => [...columns.map((c) => c.of(r)), r.state, r.problem ?? '', r.record ?? '']);
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([csv(heads, rows)], { type: 'text/csv' }));
    link.download = `${page.title}.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <section ref={top} className={css.results} aria-label="What came back">
      <div className="row gap-below-s">
        <b>What came back</b>
        <span className="dim">{results.length > 0 && `${results.length}`}</span>
        <span className="grow" />
        {results.length > 1 && (
          <Input
            className="field-xl"
            aria-label="Find a result"
            placeholder="Find"
            allowClear
            value={find}
            onChange={(e) => setFind(e.target.value)}
          />
        )}
        {results.length > 0 && (
          <>
            <Button onClick={download}>CSV</Button>
            <Button type="text" onClick={clear}>
              Clear
            </Button>
          </>
        )}
      </div>
      {results.length === 0 && (
        <p className="dim">Nothing was asked yet. Answers stay here while you ask on.</p>
      )}
      {results.length > 0 && wide && (
        <Table<Result>
          size="small"
          rowKey="key"
          dataSource={shown}
          scroll={{ x: 'max-content' }}
          pagination={{ pageSize: 20, hideOnSinglePage: true, showSizeChanger: true }}
          columns={[
            { title: '', width: 70, render: (_, r) => <State of={r} /> },
            ...typed.map(shownAs),
            {
              title: 'Problem',
              hidden: results.every((r) => !r.problem),
              render: (_, r) => r.problem && <div className={`bad ${css.problem}`}>{r.problem}</div>,
            },
            ...came.map(shownAs),
          ]}
        />
      )}
      {!wide &&
        shown.slice(0, cards).map((r) => (
          <dl key={r.key} className={css.card}>
            <div className="row">
              <State of={r} />
              {r.problem && <span className="bad">{r.problem}</span>}
            </div>
            {columns.map((c) => {
              const its = c.of(r);
              return (
                its && (
                  <div key={c.key}>
                    <dt>{c.title}</dt>
                    <dd>
                      <Value text={its} />
                    </dd>
                  </div>
                )
              );
            })}
          </dl>
        ))}
      {!wide && shown.length > cards && (
        <Button block onClick={() => setCards(cards + CARDS)}>
          {shown.length - cards} more
        </Button>
      )}
    </section>
  );
}

function State({ of }: { of: Result }) {
  if (of.state === 'asking') return <span className="chip">asking</span>;
  return of.state === 'done' ? (
    <span className="chip fine">done</span>
  ) : (
    <span className="chip failure">failed</span>
  );
}

/** A value that is copied by a click. */
function Value({ text }: { text: string }) {
  const { message } = App.useApp();
  if (!text) return null;
  return (
    <button
      type="button"
      className={css.value}
      title="Copy"
      onClick={() => {
        void navigator.clipboard?.writeText(text).then(
          () => message.success('Copied'),
          () => message.error('The browser does not let it be copied'),
        );
      }}
    >
      {text}
    </button>
  );
}

function shownAs(c: Column) {
  return {
    key: c.key,
    title: c.title,
    sorter: (a: Result, b: Result) => c.of(a).localeCompare(c.of(b), undefined, { numeric: true }),
    render: (_: unknown, r: Result) => <Value text={c.of(r)} />,
  };
}

/** What was typed, where it was other than what stands there at first. */
function typedColumns(page: AskPage, results: Result[]): Column[] {
  return page.fields
    .filter((f) => !f.hidden && results.some((r) => (r.typed[f.name] ?? '') !== (f.preset ?? '')))
    .map((f) => ({ key: `typed ${f.name}`, title: f.label, of: (r: Result) => r.typed[f.name] ?? '' }));
}

/**
 * What came back: the fields the flow says, then others that came. What only says again what was typed is left out.
 */
function cameColumns(page: AskPage, results: Result[]): Column[] {
  const names = page.answer.map((a) => a.name);
  const others = [...new Set(results.flatMap((r) => Object.keys(r.answer)))].filter(
    (n) => !names.includes(n),
  );
  const labels = Object.fromEntries(page.answer.map((a) => [a.name, a.label]));
  return [...names, ...others]
    .filter(
      (n) =>
        results.some((r) => r.answer[n]) && !results.every((r) => !r.answer[n] || r.answer[n] === r.typed[n]),
    )
    .map((n) => ({ key: `came ${n}`, title: labels[n] ?? n, of: (r: Result) => r.answer[n] ?? '' }));
}
