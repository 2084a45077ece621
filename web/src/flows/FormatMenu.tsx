import { Button, Dropdown, Input, Modal } from 'antd';
import { useState } from 'react';
import { formatLabel, type ValueFormat } from '../api/flow';

const CHOICES: { key: string; label: string; format?: ValueFormat }[] = [
  { key: 'none', label: 'as it is' },
  { key: 'comma', label: 'decimal comma: 96,5', format: { kind: 'number', read: ',' } },
  { key: 'thousands', label: 'thousands point: 1.234,5', format: { kind: 'number', read: ',', grouping: '.' } },
  { key: 'grouped', label: 'thousands comma: 1,234.5', format: { kind: 'number', read: '.', grouping: ',' } },
  { key: 'dmy', label: 'date dd.MM.yyyy', format: { kind: 'date', read: 'dd.MM.yyyy' } },
  { key: 'dmy2', label: 'date dd/MM/yyyy', format: { kind: 'date', read: 'dd/MM/yyyy' } },
  { key: 'mdy', label: 'date MM/dd/yyyy', format: { kind: 'date', read: 'MM/dd/yyyy' } },
  { key: 'pattern', label: 'another date pattern …' },
  { key: 'bool', label: 'yes/no as true/false', format: { kind: 'boolean', yes: ['yes', 'y', 'ja', 'j', '1', 'true'], no: ['no', 'n', 'nein', '0', 'false'] } },
  { key: 'trim', label: 'without outer spaces', format: { kind: 'trim' } },
  { key: 'cut', label: 'cut to a length …' },
];

/** How a value is read and written: the format on a fill. */
export function FormatMenu({ format, onChange }: { format?: ValueFormat; onChange: (format: ValueFormat | undefined) => void }) {
  const [asking, setAsking] = useState<'pattern' | 'cut'>();
  const [read, setRead] = useState('');
  const [write, setWrite] = useState('');
  const pick = (key: string) => {
    if (key === 'pattern' || key === 'cut') {
      setRead(format?.read ?? '');
      setWrite(format?.write ?? '');
      setAsking(key);
    } else onChange(CHOICES.find((c) => c.key === key)?.format);
  };
  const keep = () => {
    if (asking === 'cut') onChange(Number(read) > 0 ? { kind: 'cut', length: Number(read) } : undefined);
    else onChange({ kind: 'date', read: read || undefined, write: write || undefined });
    setAsking(undefined);
  };
  return (
    <>
      <Dropdown trigger={['click']} menu={{ items: CHOICES.map(({ key, label }) => ({ key, label })), onClick: ({ key, domEvent }) => { domEvent.stopPropagation(); pick(key); } }}>
        <Button type="text" size="small" tabIndex={-1} title="format" style={{ padding: '0 4px', fontSize: 11, color: 'var(--dim)' }} onClick={(e) => e.stopPropagation()}>
          {format ? formatLabel(format) : '⋯'}
        </Button>
      </Dropdown>
      <Modal open={asking !== undefined} title={asking === 'cut' ? 'Cut to a length' : 'Date pattern'} onCancel={() => setAsking(undefined)} onOk={keep} width={360}>
        <label>{asking === 'cut' ? 'Characters' : 'Read'}<Input value={read} onChange={(e) => setRead(e.target.value)} onPressEnter={keep} placeholder={asking === 'cut' ? '40' : 'dd.MM.yyyy'} /></label>
        {asking === 'pattern' && <label>Write (the schema's form when empty)<Input value={write} onChange={(e) => setWrite(e.target.value)} placeholder="yyyy-MM-dd" /></label>}
      </Modal>
    </>
  );
}
