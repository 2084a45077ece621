import { useQuery } from '@tanstack/react-query';
import { Button, Checkbox, Input, Popover, Select } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import { useState } from 'react';
import { type Each, type Fill, fillExtras } from '../api/flow';
import type { Secret } from '../api/types';
import { ExpressionStrip, type Try } from './ExpressionStrip';
import css from './flow.module.css';
import { FormatSteps } from './FormatSteps';
import { useCodeTables, useDatasets, useSeries } from './useChoices';

const EMPTY = [
  { value: '', label: 'default: left out where allowed' },
  { value: 'default', label: 'a default' },
  { value: 'nil', label: 'explicitly nil' },
  { value: 'send', label: 'an empty field' },
  { value: 'leaveOut', label: 'nothing' },
  { value: 'reject', label: 'the record is rejected' },
];

/** Everything a fill says beside where its value comes from, behind one button in its row. */
export function FillOptions({
  fill,
  file,
  draws,
  open,
  onOpen,
  onChange,
  onTry,
}: {
  fill: Fill;
  file?: 'send' | 'write';
  draws?: boolean;
  open: boolean;
  onOpen: (open: boolean) => void;
  onChange: (fill: Fill) => void;
  onTry: Try;
}) {
  const extras = fillExtras(fill);
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={onOpen}
      destroyOnHidden
      title={
        <span>
          How <span className="mono">{fill.target.replace(/.*[/}]/, '')}</span> is filled
        </span>
      }
      content={
        <Body
          fill={fill}
          file={file}
          draws={draws}
          onChange={onChange}
          onTry={onTry}
          onClose={() => onOpen(false)}
        />
      }
    >
      <Button
        type="text"
        size="small"
        tabIndex={-1}
        className={css.extras}
        style={extras.length ? undefined : { flex: 'none' }}
        aria-label="fill options"
        title={extras.join(' · ') || 'format, look-up, default, condition  O'}
        onClick={(e) => e.stopPropagation()}
      >
        {extras.length ? extras.join(' · ') : '⋯'}
      </Button>
    </Popover>
  );
}

function Body({
  fill,
  file,
  draws,
  onChange,
  onTry,
  onClose,
}: {
  fill: Fill;
  file?: 'send' | 'write';
  draws?: boolean;
  onChange: (fill: Fill) => void;
  onTry: Try;
  onClose: () => void;
}) {
  const [condition, setCondition] = useState<{ of: string; text: string }>();
  const tables = useCodeTables();
  const series = useSeries();
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  const folders = useDatasets().filter((d) => d.kind === 'folder');
  const value =
    !fill.pick &&
    fill.copy === undefined &&
    !fill.nil &&
    fill.secret === undefined &&
    fill.number === undefined &&
    !fill.signature;
  const each = fill.each ?? {};
  const setEach = (part: Partial<Each>) => {
    const next = { ...each, ...part };
    const said = next.where || next.order?.length || next.groupBy?.length;
    onChange({ ...fill, each: said ? next : undefined });
  };
  const line = (label: string, help: string, children: React.ReactNode) => (
    <div className={css.option}>
      <label title={help}>{label}</label>
      <div>{children}</div>
    </div>
  );
  const text = (
    label: string,
    help: string,
    now: string | undefined,
    keep: (text: string) => void,
    placeholder: string,
  ) =>
    line(
      label,
      help,
      <Input
        size="small"
        className="mono"
        aria-label={label}
        key={`${label} ${now}`}
        defaultValue={now}
        placeholder={placeholder}
        onBlur={(e) => e.target.value !== (now ?? '') && keep(e.target.value)}
        onPressEnter={(e) => e.currentTarget.blur()}
      />,
    );
  /** A condition: while it is typed what it gives for the sample stands below it. */
  const test = (
    label: string,
    help: string,
    now: string | undefined,
    keep: (text: string) => void,
    placeholder: string,
  ) =>
    line(
      label,
      help,
      <>
        <Input
          size="small"
          className="mono"
          aria-label={label}
          key={`${label} ${now}`}
          defaultValue={now}
          placeholder={placeholder}
          onFocus={(e) => setCondition({ of: label, text: e.target.value })}
          onChange={(e) => setCondition({ of: label, text: e.target.value })}
          onBlur={(e) => {
            setCondition(undefined);
            if (e.target.value !== (now ?? '')) keep(e.target.value);
          }}
          onPressEnter={(e) => e.currentTarget.blur()}
        />
        {condition?.of === label && condition.text.trim() && (
          <ExpressionStrip text={condition.text} onTry={onTry} onReplace={(text) => keep(text)} />
        )}
      </>,
    );
  return (
    <div
      className={css.options}
      onClick={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') onClose();
      }}
    >
      {fill.repeat !== undefined && (
        <>
          {text(
            'Each is',
            'the name each repeated node has inside',
            `$${fill.as ?? 'item'}`,
            (t) => onChange({ ...fill, as: t.replace(/^\$/, '') || 'item' }),
            '$item',
          )}
          {test(
            'Only where',
            'an expression; only nodes for which it is true',
            each.where,
            (where) => setEach({ where: where || undefined }),
            `$${fill.as ?? 'item'}/kg != '0'`,
          )}
          {text(
            'In order of',
            'paths with commas between; a minus in front for the greatest first',
            each.order?.map((o) => (o.descending ? '-' : '') + o.by).join(', '),
            (t) =>
              setEach({
                order: t
                  .split(/\s*,\s*/)
                  .filter(Boolean)
                  .map((by) => (by.startsWith('-') ? { by: by.slice(1), descending: true } : { by })),
              }),
            `$${fill.as ?? 'item'}/no`,
          )}
          {text(
            'Grouped by',
            'fields with commas between: equal ones become one, its rows are called line',
            each.groupBy?.join(', '),
            (t) => setEach({ groupBy: t.split(/\s*,\s*/).filter(Boolean) }),
            'crate_no',
          )}
        </>
      )}
      {fill.join &&
        text(
          'Between',
          'what stands between two values',
          fill.join.by ?? ' ',
          (by) => onChange({ ...fill, join: { parts: fill.join?.parts ?? [], by } }),
          'a space',
        )}
      {value &&
        line(
          'Value',
          'how it is read and written',
          <FormatSteps format={fill.format} onChange={(format) => onChange({ ...fill, format })} />,
        )}
      {value &&
        line(
          'Look up in',
          'a code table, after the steps above',
          <span className="row">
            <Select
              size="small"
              allowClear
              aria-label="Code table"
              className="field-l"
              placeholder="no code table"
              value={fill.lookUp?.table}
              options={tables.map((t) => ({ value: t.name, label: `${t.name} · ${t.codes}` }))}
              onChange={(table?: string) =>
                onChange({ ...fill, lookUp: table ? { ...fill.lookUp, table } : undefined })
              }
            />
            {fill.lookUp && (
              <Input
                size="small"
                className="mono field-m"
                placeholder="on day: $…"
                defaultValue={fill.lookUp.on}
                onBlur={(e) =>
                  fill.lookUp &&
                  onChange({ ...fill, lookUp: { ...fill.lookUp, on: e.target.value || undefined } })
                }
              />
            )}
            <Link to="/settings?tab=codes">edit</Link>
          </span>,
        )}
      {value &&
        file &&
        line(
          file === 'send' ? 'Send the file' : 'Write to a file',
          file === 'send'
            ? 'the value names a file of the folder; its content is sent'
            : 'the value is content: it goes to the folder, the column holds the name of the file',
          <span className="row">
            <Select
              size="small"
              allowClear
              aria-label="Folder"
              className="field-l"
              placeholder={folders.length ? 'in no folder' : 'no folder yet'}
              value={fill.file?.folder}
              options={folders.map((d) => ({ value: d.name, label: `${d.name} · ${d.rows}` }))}
              onChange={(folder?: string) =>
                onChange({ ...fill, file: folder ? { ...fill.file, folder } : undefined })
              }
            />
            {folders.length === 0 && <Link to="/datasets?add=folder">add one</Link>}
          </span>,
        )}
      {value &&
        fill.file &&
        file === 'write' &&
        text(
          'Called',
          'the file’s name, a path or an expression; when empty it is made from run, record and column',
          fill.file.name,
          (name) =>
            fill.file && onChange({ ...fill, file: { folder: fill.file.folder, name: name || undefined } }),
          "concat($loan/loan_no, '.pdf')",
        )}
      {value &&
        line(
          'When empty',
          'what is sent when there is no value',
          <span className="row">
            <Select
              size="small"
              aria-label="When empty"
              className="field-xl"
              value={fill.whenEmpty?.use ?? ''}
              options={EMPTY}
              onChange={(use) =>
                onChange({
                  ...fill,
                  whenEmpty: use
                    ? {
                        use: use as never,
                        value: use === 'default' ? (fill.whenEmpty?.value ?? '') : undefined,
                      }
                    : undefined,
                })
              }
            />
            {fill.whenEmpty?.use === 'default' && (
              <Input
                size="small"
                className="mono field-m"
                aria-label="Default"
                key={fill.whenEmpty.value}
                defaultValue={fill.whenEmpty.value}
                onBlur={(e) => onChange({ ...fill, whenEmpty: { use: 'default', value: e.target.value } })}
                onPressEnter={(e) => e.currentTarget.blur()}
              />
            )}
          </span>,
        )}
      {test(
        'Only when',
        'an expression; for other records the fill does not count',
        fill.when,
        (when) => onChange({ ...fill, when: when || undefined }),
        "$loan/kind = 'permit'",
      )}
      {fill.signature &&
        line(
          'Key',
          'the key it is signed with: a secret, or the one the endpoint signs messages with',
          <span className="row">
            <Select
              size="small"
              allowClear
              aria-label="Key"
              className="field-l"
              placeholder="that of the endpoint"
              value={fill.signature.key}
              options={secrets.data?.map((s) => ({ value: s.name }))}
              onChange={(key?: string) =>
                fill.signature && onChange({ ...fill, signature: { ...fill.signature, key } })
              }
            />
            <Checkbox
              checked={!!fill.signature.inclusive}
              onChange={(e) =>
                fill.signature &&
                onChange({
                  ...fill,
                  signature: { ...fill.signature, inclusive: e.target.checked || undefined },
                })
              }
            >
              inclusive canonical form
            </Checkbox>
          </span>,
        )}
      {!fill.pick &&
        !fill.signature &&
        fill.repeat === undefined &&
        line(
          'Instead',
          draws ? 'a number of a series, a secret, or always nil' : 'send a secret, or always nil',
          <span className="row">
            {(draws || fill.number !== undefined) && (
              <Select
                size="small"
                allowClear
                aria-label="Series"
                className="field-l"
                placeholder={series.length ? 'a number of' : 'no series yet'}
                value={fill.number}
                options={series.map((s) => ({ value: s.name, label: `${s.name} · ${s.first}` }))}
                onChange={(number?: string) =>
                  onChange(
                    number
                      ? { id: fill.id, target: fill.target, number, remark: fill.remark }
                      : { id: fill.id, target: fill.target, constant: '' },
                  )
                }
              />
            )}
            {draws && series.length === 0 && <Link to="/settings?tab=series">add one</Link>}
            <Select
              size="small"
              allowClear
              aria-label="Secret"
              className="field-l"
              placeholder="a secret"
              value={fill.secret}
              options={secrets.data?.map((s) => ({ value: s.name }))}
              onChange={(secret?: string) =>
                onChange(
                  secret
                    ? { id: fill.id, target: fill.target, secret, remark: fill.remark }
                    : { id: fill.id, target: fill.target, constant: '' },
                )
              }
            />
            <Checkbox
              checked={!!fill.nil}
              onChange={(e) =>
                onChange(
                  e.target.checked
                    ? { id: fill.id, target: fill.target, nil: true, remark: fill.remark }
                    : { id: fill.id, target: fill.target, constant: '' },
                )
              }
            >
              nil
            </Checkbox>
          </span>,
        )}
      {text(
        'Remark',
        'kept with the fill, and in the mapping sheet',
        fill.remark,
        (remark) => onChange({ ...fill, remark: remark || undefined }),
        'why it is so',
      )}
    </div>
  );
}
