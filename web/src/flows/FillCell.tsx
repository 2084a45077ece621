import { AutoComplete } from 'antd';
import { useMemo, useState } from 'react';
import type { SourceGroup } from '../api/types';

const FUNCTIONS: [string, string][] = [
  ['concat(', 'joins texts'],
  ['substring(', 'text, start, length'],
  ['upper-case(', 'in capitals'],
  ['lower-case(', 'in small letters'],
  ['normalize-space(', 'trims and single spaces'],
  ['translate(', 'replaces characters'],
  ['replace(', 'by regular expression'],
  ['string-join(', 'joins a list'],
  ['xs:decimal(', 'as a number'],
  ['xs:date(', 'as a date'],
  ['format-date(', 'date, picture'],
  ['format-number(', 'number, picture'],
  ['if () then  else ', 'chooses'],
  ['current-date()', 'today'],
  ['sum(', 'adds up'],
  ['count(', 'how many'],
];

/** The cell while it is edited: completes field names, allowed values and functions. */
export function FillCell({
  start, sources, values, onKeep, onLeave,
}: { start: string; sources: SourceGroup[]; values: string[]; onKeep: (text: string) => void; onLeave: () => void }) {
  const [text, setText] = useState(start);
  const [open, setOpen] = useState(true);
  const token = /[$\w:./@-]*$/.exec(text)?.[0] ?? '';
  const before = text.slice(0, text.length - token.length);
  const options = useMemo(() => {
    const wanted = token.toLowerCase();
    const fits = (name: string) => !wanted || name.toLowerCase().includes(wanted);
    const fields = sources.flatMap((g) =>
      g.fields.filter((f) => fits(f.wire)).map((f) => ({ value: before + f.wire, wire: f.wire, hint: f.value })),
    );
    const allowed = before ? [] : values.filter(fits).map((v) => ({ value: `"${v}"`, wire: `"${v}"`, hint: 'allowed value' }));
    const functions = wanted.length > 0 ? FUNCTIONS.filter(([f]) => f.startsWith(wanted)).map(([f, hint]) => ({ value: before + f, wire: f, hint })) : [];
    return [...allowed, ...fields, ...functions].slice(0, 40).map((o) => ({
      value: o.value,
      label: (
        <span className="row" style={{ gap: 14 }}>
          <span className="mono">{o.wire}</span>
          <span className="faint clip grow" style={{ textAlign: 'right' }}>{o.hint}</span>
        </span>
      ),
    }));
  }, [token, before, sources, values]);
  return (
    <AutoComplete
      autoFocus
      size="small"
      className="mono"
      style={{ width: '100%' }}
      aria-label="Fill"
      placeholder='$field, "text" or an expression'
      value={text}
      open={open && options.length > 0}
      onOpenChange={setOpen}
      defaultActiveFirstOption={false}
      popupMatchSelectWidth={360}
      options={options}
      onChange={(next: string) => {
        setText(next);
        setOpen(true);
      }}
      onSelect={(picked: string) => {
        if (!before && !picked.endsWith('(')) onKeep(picked);
      }}
      onBlur={() => (text === start ? onLeave() : onKeep(text))}
      onInputKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation();
          onLeave();
        }
        if (e.key === 'Enter' && !document.querySelector('.ant-select-dropdown:not(.ant-select-dropdown-hidden) .ant-select-item-option-active')) {
          e.preventDefault();
          e.stopPropagation();
          onKeep(text);
        }
      }}
    />
  );
}
