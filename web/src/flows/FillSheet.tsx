import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import { type Fill, fillPaths, fillShown, fillText, readFill } from '../api/flow';
import type { FieldValue, SourceGroup } from '../api/types';
import { NONE } from '../shared/none';
import { useKeys } from '../shared/useKeys';
import { Coverage } from './Coverage';
import { ExpressionStrip, type Told } from './ExpressionStrip';
import { FillCell } from './FillCell';
import { FillOptions } from './FillOptions';
import css from './flow.module.css';
import { pathInside, pathOutside, repeatsAround, sourcesAt } from './repeats';
import { SourceList } from './SourceList';
import type { Proposal } from './useProposals';
import { Wires } from './Wires';

/** One target: a field of a message or a column of a record. */
export type Target = {
  path: string;
  search: string;
  name: ReactNode;
  action?: ReactNode;
  fillable: boolean;
  /** Whether its value can name a file that is sent, or be content that is written to one. */
  file?: 'send' | 'write';
  /** The series it can be a number of; undefined where none is drawn. */
  series?: string[];
  repeats: boolean;
  /** Whether all below it can be filled from one place. */
  subtree?: boolean;
  required: boolean;
  values: string[];
  filledBelow?: string;
};

const HEIGHT = 30;

/** The characters that find room in a cell of the laptop's sheet. */
const LONG = 24;

/** What was copied last, to be pasted into other rows, also of another stage. */
let copied: Fill | undefined;

/** Target rows with what fills them, the value for the sample and coverage over all samples; sources at the left. */
export function FillSheet({
  targets,
  fills,
  values,
  sources,
  proposals,
  focus,
  onFocus,
  onFill,
  onChangeFill,
  onFix,
  onAccept,
  onDismiss,
  onRecord,
  onTry,
  wrong,
  heading,
}: {
  targets: Target[];
  fills: Fill[];
  values: Record<string, FieldValue>;
  sources: SourceGroup[];
  proposals: Map<string, Proposal>;
  focus: string | undefined;
  onFocus: (path: string) => void;
  onFill: (path: string, text: string) => void;
  onChangeFill: (fill: Fill) => void;
  onFix: (path: string) => void;
  onAccept: (path: string) => void;
  onDismiss: (path: string) => void;
  onRecord: (record: number) => void;
  onTry: (text: string, target: string) => Promise<Told>;
  /** What is wrong with a row before any record, by its path. */
  wrong: Map<string, string>;
  heading: string;
}) {
  const [typed, setTyped] = useState('');
  const [options, setOptions] = useState<string>();
  const [editing, setEditing] = useState<{ path: string; start: string }>();
  const [dropOn, setDropOn] = useState<string>();
  const box = useRef<HTMLDivElement>(null);
  const scroll = useRef<HTMLDivElement>(null);
  const byTarget = useMemo(() => new Map(fills.map((f) => [f.target, f])), [fills]);
  const at = Math.max(
    0,
    targets.findIndex((t) => t.path === focus),
  );
  const list = useVirtualizer({
    count: targets.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => HEIGHT,
    overscan: 10,
  });
  const samples = Object.values(values).reduce((most, v) => Math.max(most, v.fine + v.empty + v.invalid), 0);
  const used = useMemo(
    () =>
      new Set(
        fills.flatMap((f) =>
          fillPaths(f).flatMap((p) => [p, pathOutside(p, repeatsAround(fills, f.target))]),
        ),
      ),
    [fills],
  );
  const valueOf = useMemo(
    () => new Map(sources.flatMap((g) => g.fields.map((f) => [f.wire, f.value] as const))),
    [sources],
  );
  const focused = byTarget.get(focus ?? '');
  const inReach = useMemo(() => sourcesAt(sources, repeatsAround(fills, focus)), [sources, fills, focus]);
  const take = (path: string, wire: string) => onFill(path, pathInside(wire, repeatsAround(fills, path)));
  /** The sample's value of a proposed wire; inside a proposed repeat it is that of the first node. */
  const valueProposed = (proposal: Proposal) => {
    const around = repeatsAround(fills, proposal.target);
    for (let need = proposals.get(proposal.needs ?? ''); need; need = proposals.get(need.needs ?? ''))
      around.push(need.fill);
    return proposal.fill.constant ?? valueOf.get(pathOutside(proposal.fill.wire ?? '', around));
  };

  const go = (index: number) => {
    const next = targets[Math.max(0, Math.min(targets.length - 1, index))];
    if (!next) return;
    onFocus(next.path);
    list.scrollToIndex(Math.max(0, Math.min(targets.length - 1, index)));
  };
  const edit = (path: string, start?: string) => {
    const target = targets.find((t) => t.path === path);
    if (!target?.fillable && !target?.repeats && !target?.subtree) return;
    const text = start ?? fillText(byTarget.get(path));
    setTyped(text);
    setEditing({ path, start: text });
  };
  const accept = () => {
    if (proposals.size === 0) return false;
    const path = targets[at]?.path;
    if (path && proposals.has(path)) onAccept(path);
    const rest = [...targets.slice(at + 1), ...targets.slice(0, at)].find(
      (t) => proposals.has(t.path) && t.path !== path,
    );
    if (rest) go(targets.indexOf(rest));
    return true;
  };
  useKeys({
    ArrowDown: () => go(at + 1),
    ArrowUp: () => go(at - 1),
    PageDown: () => go(at + 12),
    PageUp: () => go(at - 12),
    Home: () => go(0),
    End: () => go(targets.length - 1),
    Enter: () => targets[at] && edit(targets[at].path),
    Delete: () => targets[at] && onFill(targets[at].path, ''),
    Backspace: () => targets[at] && onFill(targets[at].path, ''),
    Tab: accept,
    x: () => targets[at] && onDismiss(targets[at].path),
    f: () => targets[at] && values[targets[at].path]?.fix && onFix(targets[at].path),
    o: () => targets[at] && byTarget.has(targets[at].path) && setOptions(targets[at].path),
    'Ctrl+c': () => {
      const fill = targets[at] && byTarget.get(targets[at].path);
      if (!fill || window.getSelection()?.toString()) return false;
      copied = fill;
      return true;
    },
    'Ctrl+v': () => {
      const target = targets[at];
      if (!copied || !target || !(target.fillable || (copied.repeat !== undefined && target.repeats)))
        return false;
      onChangeFill({ ...copied, id: byTarget.get(target.path)?.id ?? '', target: target.path });
      return true;
    },
    $: () => targets[at] && edit(targets[at].path, '$'),
    '"': () => targets[at] && edit(targets[at].path, '"'),
  });
  // a path that is being typed is no expression yet
  const expression =
    editing && !/^\$[\p{L}\p{N}_./@-]*$/u.test(typed) && readFill(typed)?.expression !== undefined;
  const foot = editing ? expression : proposals.has(focus ?? '');
  useEffect(() => {
    if (focus && at > 0) list.scrollToIndex(at);
    // the row is brought into view when it is chosen from elsewhere, or when what stands below takes room
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus, foot]);

  return (
    <div ref={box} className={css.fillArea}>
      <SourceList
        groups={inReach}
        used={used}
        focus={new Set(focused ? fillPaths(focused) : [])}
        onPick={(wire) => targets[at] && take(targets[at].path, wire)}
      />
      <div data-gutter className={css.gutter} />
      <div className={css.sheet} role="grid" aria-label={heading}>
        <div className={`${css.fillRow} ${css.fillHead}`}>
          <span />
          <span className="clip" title={heading}>
            {heading}
          </span>
          <span>Filled from</span>
          <span>For this record</span>
          <span>
            {samples} {samples === 1 ? 'row' : 'rows'}
          </span>
        </div>
        <div ref={scroll} className={css.scroll}>
          <div style={{ height: list.getTotalSize(), position: 'relative' }}>
            {list.getVirtualItems().map((item) => {
              const target = targets[item.index];
              const found = byTarget.get(target.path);
              const fill = found?.pick ? undefined : found;
              const value = values[target.path];
              const suggestion = proposals.get(target.path);
              const status = value?.problem
                ? css.statusBad
                : fill
                  ? value && value.invalid > 0
                    ? css.statusSome
                    : css.statusFine
                  : suggestion
                    ? css.statusSuggested
                    : '';
              const isOn = target.path === focus;
              // a long text has the whole row while it is typed
              const wide = editing?.path === target.path && typed.length > LONG;
              return (
                <div
                  key={target.path}
                  role="row"
                  aria-selected={isOn}
                  data-target={target.path}
                  className={[
                    css.fillRow,
                    isOn && css.fillOn,
                    dropOn === target.path && css.dropOn,
                    !target.fillable && css.group,
                  ]
                    .filter(Boolean)
                    .join(' ')}
                  style={{ transform: `translateY(${item.start}px)`, position: 'absolute', height: HEIGHT }}
                  onClick={() => onFocus(target.path)}
                  onDoubleClick={() => edit(target.path)}
                  onDragOver={(e) => {
                    if (!target.fillable && !target.repeats && !target.subtree) return;
                    e.preventDefault();
                    setDropOn(target.path);
                  }}
                  onDragLeave={() => setDropOn(undefined)}
                  onDrop={(e) => {
                    e.preventDefault();
                    setDropOn(undefined);
                    onFocus(target.path);
                    take(target.path, e.dataTransfer.getData('text/plain'));
                  }}
                >
                  {target.fillable || fill ? <span className={`${css.status} ${status}`} /> : <span />}
                  <span className="clip flex shrinks">{target.name}</span>
                  <span
                    className={css.fillCell}
                    style={wide ? { gridColumn: '3 / -1', paddingRight: 8 } : undefined}
                  >
                    {editing?.path === target.path ? (
                      <FillCell
                        start={editing.start}
                        sources={inReach}
                        values={target.values}
                        series={target.series ?? NONE}
                        onText={setTyped}
                        onLeave={() => setEditing(undefined)}
                        onKeep={(text) => {
                          setEditing(undefined);
                          onFill(target.path, text);
                          go(item.index + 1);
                        }}
                      />
                    ) : fill ? (
                      <>
                        <span
                          className={`mono clip ${fill.constant !== undefined ? '' : css.wired} count-s`}
                          title={`${fill.wire ?? fillShown(fill)}${fill.remark ? `\n${fill.remark}` : ''}`}
                          onClick={() => isOn && edit(target.path)}
                        >
                          {fillShown(fill)}
                        </span>
                        {value?.fix && value.invalid > 0 ? (
                          <button
                            type="button"
                            className={css.fix}
                            title={
                              `${value.fix.label}: mends ${value.fix.mends} of ${value.fix.of}` +
                              ' values that do not fit  F'
                            }
                            onClick={(e) => {
                              e.stopPropagation();
                              onFix(target.path);
                            }}
                          >
                            {value.fix.label} · {value.fix.mends}
                          </button>
                        ) : null}
                        <FillOptions
                          fill={fill}
                          file={target.file}
                          draws={target.series !== undefined}
                          open={options === target.path}
                          onOpen={(open) => setOptions(open ? target.path : undefined)}
                          onChange={onChangeFill}
                          onTry={(text) => onTry(text, target.path)}
                        />
                        {!target.fillable && target.action}
                      </>
                    ) : suggestion ? (
                      <span className="row clip" title={suggestion.reason}>
                        <button
                          type="button"
                          className={`mono clip ${css.ghost}`}
                          onClick={() => onAccept(target.path)}
                        >
                          {fillShown(suggestion.fill)}
                        </button>
                        <span className="faint small">{suggestion.score.toFixed(2)}</span>
                        {isOn && <kbd>Tab</kbd>}
                      </span>
                    ) : target.fillable ? (
                      <>
                        {target.action}
                        <button
                          type="button"
                          className={css.emptyCell}
                          tabIndex={-1}
                          onClick={() => isOn && edit(target.path)}
                        >
                          {isOn ? (
                            target.values.length ? (
                              `one of ${target.values.slice(0, 3).join(', ')} …`
                            ) : (
                              'type, or drag a field here'
                            )
                          ) : target.required ? (
                            <span className="bad">required</span>
                          ) : (
                            ''
                          )}
                        </button>
                      </>
                    ) : (
                      <>
                        {target.action}
                        {found?.pick && (
                          <FillOptions
                            fill={found}
                            open={options === target.path}
                            onOpen={(open) => setOptions(open ? target.path : undefined)}
                            onChange={onChangeFill}
                            onTry={(text) => onTry(text, target.path)}
                          />
                        )}
                        <span className="dim clip">
                          {target.filledBelow}
                          {target.repeats
                            ? isOn
                              ? ' · Enter: for each'
                              : ' · repeats'
                            : target.subtree && isOn
                              ? ' · Enter: all from one place'
                              : ''}
                        </span>
                      </>
                    )}
                  </span>
                  {wide ? null : suggestion && !fill ? (
                    <span
                      className="mono clip faint"
                      title="what the suggestion would give, before its format"
                    >
                      {valueProposed(suggestion)}
                    </span>
                  ) : (
                    <span
                      className={`mono clip ${value?.problem || wrong.has(target.path) ? 'bad' : ''}`}
                      title={
                        value?.problem
                          ? `${value.value} ${value.problem}`
                          : (wrong.get(target.path) ?? value?.value)
                      }
                    >
                      {value?.value}
                      {value?.problem ? (
                        <> {value.problem}</>
                      ) : (
                        !value?.value &&
                        !(target.required && !fill && target.fillable) &&
                        wrong.get(target.path)
                      )}
                    </span>
                  )}
                  {!wide && (
                    <span>
                      <Coverage value={value} onRecord={onRecord} />
                    </span>
                  )}
                </div>
              );
            })}
          </div>
          {targets.length === 0 && <p className="dim pad-l">No field matches the search.</p>}
        </div>
        {editing && expression ? (
          <ExpressionStrip
            text={typed}
            onTry={(text) => onTry(text, editing.path)}
            onReplace={(text) => {
              setEditing({ path: editing.path, start: text });
              setTyped(text);
            }}
          />
        ) : (
          proposals.has(focus ?? '') && (
            <div className={css.why}>
              <span className="mono">{fillShown((proposals.get(focus ?? '') as Proposal).fill)}</span>{' '}
              suggested: {proposals.get(focus ?? '')?.reason} <kbd>Tab</kbd> accept <kbd>X</kbd> dismiss
            </div>
          )
        )}
      </div>
      <Wires box={box} fills={fills} focus={focus} version={`${targets.length} ${inReach.length} ${at}`} />
    </div>
  );
}
