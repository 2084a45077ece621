import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Button, Input, Segmented } from 'antd';
import { type ReactNode, useDeferredValue, useEffect, useRef, useState } from 'react';
import { api } from '../api/client';
import type { EmbeddedDocument } from '../api/flow';
import type { SheetPage, SheetRow } from '../api/types';
import { FieldName } from './FieldName';
import css from './MessageSheet.module.css';
import { type MessageAt, PickMenu } from './PickMenu';
import { withBranch, withNext, withoutRow, withPick } from './picks';
import { useKeys } from './useKeys';

const PAGE = 200;
const HEIGHT = 28;

/** A message as an indented list of fields; only the rows in view are asked for, so a message may have thousands. */
export function MessageSheet({
  contract,
  at,
  picks = [],
  onPicks,
  cell,
  action,
  documents,
  keys = true,
  children,
}: {
  contract: number;
  at: MessageAt;
  picks?: string[];
  onPicks?: (picks: string[]) => void;
  cell?: (row: SheetRow) => ReactNode;
  /** What the row in focus, or one that holds a document, offers. */ action?: (row: SheetRow) => ReactNode;
  documents?: EmbeddedDocument[];
  keys?: boolean;
  children?: ReactNode;
}) {
  const [text, setText] = useState('');
  const [required, setRequired] = useState(false);
  const [level, setLevel] = useState<number>();
  const [open, setOpen] = useState<string[]>([]);
  const [closed, setClosed] = useState<string[]>([]);
  const [on, setOn] = useState(0);
  const [shown, setShown] = useState([0]);
  const box = useRef<HTMLDivElement>(null);
  const find = useRef<HTMLInputElement>(null);
  const search = useDeferredValue(text.trim());
  const place = JSON.stringify(at);
  useEffect(() => {
    setOpen([]);
    setClosed([]);
    setLevel(undefined);
    setOn(0);
    box.current?.scrollTo({ top: 0 });
  }, [place]);
  const wanted = {
    ...at,
    search,
    requiredOnly: required,
    level,
    open,
    closed,
    picks,
    documents: documents?.filter((d) => d.message === at.message),
  };
  const ask = (page: number) => ({
    queryKey: ['sheet-page', contract, wanted, page],
    queryFn: () =>
      api.post<SheetPage>(`/contracts/${contract}/sheet`, { ...wanted, from: page * PAGE, size: PAGE }),
    staleTime: 60_000,
  });
  const first = useQuery({ ...ask(0), placeholderData: keepPreviousData });
  const others = useQueries({ queries: shown.filter((p) => p > 0).map(ask) });
  const pages = new Map<number, SheetRow[]>([[0, first.data?.rows ?? []]]);
  shown.filter((p) => p > 0).forEach((p, i) => pages.set(p, others[i]?.data?.rows ?? []));
  const total = first.data?.total ?? 0;
  const rowAt = (index: number): SheetRow | undefined => pages.get(Math.floor(index / PAGE))?.[index % PAGE];
  const list = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => HEIGHT,
    overscan: 12,
  });
  const items = list.getVirtualItems();
  const inView = [...new Set(items.map((i) => Math.floor(i.index / PAGE)))].join();
  useEffect(() => setShown(inView === '' ? [0] : inView.split(',').map(Number)), [inView]);

  const toggle = (row: SheetRow, expand: boolean) => {
    setOpen(expand ? [...open, row.path] : open.filter((p) => p !== row.path));
    setClosed(expand ? closed.filter((p) => p !== row.path) : [...closed, row.path]);
  };
  const go = (index: number) => {
    const next = Math.max(0, Math.min(total - 1, index));
    setOn(next);
    list.scrollToIndex(next);
  };
  const levelNow = first.data?.level ?? 1;
  const deepest = Math.max(1, (first.data?.deepest ?? 1) - 1);
  const toLevel = (to: number) => {
    setLevel(Math.max(1, Math.min(deepest, to)));
    setOpen([]);
    setClosed([]);
  };
  useKeys(
    !keys
      ? {}
      : {
          ArrowDown: () => go(on + 1),
          ArrowUp: () => go(on - 1),
          PageDown: () => go(on + 15),
          PageUp: () => go(on - 15),
          ArrowRight: () => {
            const row = rowAt(on);
            if (row?.expandable && !row.expanded) toggle(row, true);
          },
          ArrowLeft: () => {
            const row = rowAt(on);
            if (row?.expanded) toggle(row, false);
          },
          '/': () => find.current?.focus(),
          '+': () => toLevel(levelNow + 1),
          '-': () => toLevel(levelNow - 1),
        },
  );
  const known = [...pages.values()].flat();
  return (
    <div className={css.sheet}>
      <div className={css.tools}>
        <Input
          ref={find as never}
          size="small"
          allowClear
          placeholder="Find by name, type, text  /"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            setOn(0);
          }}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          className="field-xl"
        />
        <Segmented
          size="small"
          value={required ? 'required' : 'all'}
          onChange={(v) => setRequired(v === 'required')}
          options={[
            { value: 'required', label: `Required ${first.data?.required ?? ''}` },
            {
              value: 'all',
              label: `All ${first.data ? first.data.fields.toLocaleString('en') : ''}${first.data?.more ? '+' : ''}`,
            },
          ]}
        />
        {!search && !required && deepest > 1 && (
          <span className="row tight" title="how many levels are expanded: + and −">
            <Button
              size="small"
              type="text"
              aria-label="One level less"
              disabled={levelNow <= 1}
              onClick={() => toLevel(levelNow - 1)}
            >
              −
            </Button>
            <span className="dim nowrap">
              level {levelNow} of {deepest}
            </span>
            <Button
              size="small"
              type="text"
              aria-label="One level more"
              disabled={levelNow >= deepest}
              onClick={() => toLevel(levelNow + 1)}
            >
              +
            </Button>
          </span>
        )}
        <span className="grow" />
        {search && (
          <span className="dim">
            {total} {total === 1 ? 'row' : 'rows'}
          </span>
        )}
        {children}
      </div>
      <div ref={box} className={css.scroll} role="tree" aria-label="Message sheet">
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = rowAt(item.index);
            return (
              <div
                key={item.index}
                role="treeitem"
                aria-selected={item.index === on}
                data-path={row?.path}
                className={`${css.line} ${item.index === on ? css.on : ''}`}
                style={{ transform: `translateY(${item.start}px)` }}
                onClick={() => setOn(item.index)}
              >
                {row && (
                  <>
                    <FieldName
                      row={row}
                      onToggle={row.expandable ? () => toggle(row, !row.expanded) : undefined}
                    />
                    {onPicks && (row.typeChoices > 0 || row.elementChoices > 1) && (
                      <PickMenu
                        contract={contract}
                        at={at}
                        row={row}
                        onPick={(path) => onPicks(withPick(picks, row, path))}
                      />
                    )}
                    {onPicks && row.choice && !picks.includes(row.path) && item.index === on && (
                      <button
                        type="button"
                        className="linkish"
                        onClick={() => onPicks(withBranch(picks, row, known))}
                      >
                        this one
                      </button>
                    )}
                    {onPicks && row.choice && picks.includes(row.path) && (
                      <span className="chip fine">chosen</span>
                    )}
                    {onPicks && row.next && item.index === on && (
                      <button
                        type="button"
                        className="linkish"
                        aria-label={`Add another ${row.name}`}
                        onClick={() => onPicks(withNext(picks, row))}
                      >
                        add another
                      </button>
                    )}
                    {onPicks && row.occurrence > 1 && (
                      <button
                        type="button"
                        className="linkish"
                        aria-label={`Remove ${row.name} ${row.occurrence}`}
                        onClick={() => onPicks(withoutRow(picks, row))}
                      >
                        remove
                      </button>
                    )}
                    {action && (item.index === on || row.document) && action(row)}
                    {cell && row.leaf ? (
                      <span className={css.cell}>{cell(row)}</span>
                    ) : (
                      <span className="dim clip grow" title={row.documentation}>
                        {row.documentation}
                      </span>
                    )}
                    {!cell && row.facets.length + row.values.length > 0 && (
                      <span className="mono faint clip chip-pick">
                        {row.values.length
                          ? row.values.slice(0, 4).join(' | ') + (row.values.length > 4 ? ' …' : '')
                          : row.facets.join(', ')}
                      </span>
                    )}
                  </>
                )}
              </div>
            );
          })}
        </div>
        {first.isPending && <div className="dim pad">Reading the contract …</div>}
        {first.data && total === 0 && (
          <div className="dim pad">
            {search || required ? 'No field fits.' : 'This message has no content.'}
          </div>
        )}
        {first.error && <div className="bad pad">{first.error.message}</div>}
      </div>
    </div>
  );
}
