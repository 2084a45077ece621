import { Input } from 'antd';
import { useMemo, useState } from 'react';
import type { OfferedOperation } from '../api/types';
import css from './ContractPage.module.css';

/** Every operation by port, searchable. */
export function OperationList({
  operations,
  chosen,
  onPick,
}: {
  operations: OfferedOperation[];
  chosen: OfferedOperation | undefined;
  onPick: (o: OfferedOperation) => void;
}) {
  const [text, setText] = useState('');
  const ports = useMemo(() => {
    const wanted = text.trim().toLowerCase();
    const byPort = new Map<string, OfferedOperation[]>();
    for (const o of operations) {
      if (`${o.key} ${o.documentation} ${o.port}`.toLowerCase().includes(wanted)) {
        const name = `${o.service} ${o.port}`;
        byPort.set(name, [...(byPort.get(name) ?? []), o]);
      }
    }
    return [...byPort.values()];
  }, [operations, text]);
  return (
    <>
      <div className="pad-s">
        <Input
          size="small"
          allowClear
          placeholder={
            operations.length === 1 ? 'Find an operation' : `Find among ${operations.length} operations`
          }
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <div className="scrolls fills">
        {ports.map((its) => (
          <div key={its[0].service + its[0].port}>
            <div className={css.port} title={`${its[0].service} · ${its[0].address}`}>
              {its[0].port} <span className="faint">{its[0].protocol || 'not callable'}</span>
            </div>
            {its.map((o) => (
              <button
                key={o.key}
                type="button"
                className={`${css.operation} ${o === chosen ? css.on : ''}`}
                onClick={() => onPick(o)}
              >
                <span className="clip grow">{o.key}</span>
                <span className="faint">{o.callable ? o.effect : o.kind}</span>
              </button>
            ))}
          </div>
        ))}
        {ports.length === 0 && <div className="dim pad">No operation has that name.</div>}
      </div>
    </>
  );
}
