import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useEffect, useRef } from 'react';
import { api } from '../api/client';
import type { Contract } from '../api/types';

type Place = { document: number; line: number };

/** A document's raw text with line numbers, scrolled to the line of a finding. */
export function NumberedText({ contract, place, onPlace }: { contract: Contract; place?: Place; onPlace: (p: Place) => void }) {
  const shown = place?.document ?? 0;
  const text = useQuery({
    queryKey: ['document', contract.id, shown],
    queryFn: () => api.get<string>(`/contracts/${contract.id}/documents/${shown}`),
  });
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => line.current?.scrollIntoView({ block: 'center' }), [text.data, place]);
  return (
    <>
      <Select
        value={shown}
        onChange={(document) => onPlace({ document, line: 0 })}
        style={{ width: '100%', marginBottom: 8 }}
        options={contract.documents.map((d, i) => ({ value: i, label: `${d.name} · ${Math.ceil(d.bytes / 1024)} KB` }))}
      />
      <div className="mono" style={{ overflow: 'auto', maxHeight: '72vh', whiteSpace: 'pre' }}>
        {(text.data ?? '').split('\n').slice(0, 20_000).map((t, i) => (
          <div key={i} ref={i + 1 === place?.line ? line : undefined} style={i + 1 === place?.line ? { background: 'var(--caution-soft)' } : undefined}>
            <span className="faint" style={{ display: 'inline-block', width: 48, userSelect: 'none' }}>{i + 1}</span>
            {t}
          </div>
        ))}
      </div>
    </>
  );
}
