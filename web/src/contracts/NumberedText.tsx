import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Select } from 'antd';
import { useEffect, useMemo, useRef } from 'react';
import { api } from '../api/client';
import type { Contract } from '../api/types';

type Place = { document: number; line: number };

/** A document's raw text with line numbers, at the line of a finding; only the lines in view are drawn. */
export function NumberedText({
  contract,
  place,
  onPlace,
}: {
  contract: Contract;
  place?: Place;
  onPlace: (p: Place) => void;
}) {
  const shown = place?.document ?? 0;
  const text = useQuery({
    queryKey: ['document', contract.id, contract.revision, shown],
    queryFn: () => api.get<string>(`/contracts/${contract.id}/documents/${shown}`),
    staleTime: Infinity,
  });
  const lines = useMemo(() => (text.data ?? '').split(/\r?\n/), [text.data]);
  const widest = useMemo(
    () =>
      Math.min(
        4000,
        lines.reduce((most, l) => Math.max(most, l.length), 0),
      ),
    [lines],
  );
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => 19,
    overscan: 30,
  });
  useEffect(() => {
    if (place && place.line > 0 && lines.length >= place.line)
      list.scrollToIndex(place.line - 1, { align: 'center' });
    // only a new place or a new text moves the view
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [place, lines]);
  return (
    <>
      <Select
        value={shown}
        onChange={(document) => onPlace({ document, line: 0 })}
        showSearch={{ optionFilterProp: 'label' }}
        className="full gap-below"
        options={contract.documents.map((d, i) => ({
          value: i,
          label: `${d.name} · ${Math.ceil(d.bytes / 1024).toLocaleString('en')} KB`,
        }))}
      />
      <div ref={box} className="mono whole-text">
        <div style={{ height: list.getTotalSize(), position: 'relative', minWidth: `${widest + 8}ch` }}>
          {list.getVirtualItems().map((item) => (
            <div
              key={item.index}
              data-line={item.index + 1}
              style={{
                position: 'absolute',
                left: 0,
                right: 0,
                height: 19,
                transform: `translateY(${item.start}px)`,
                background: item.index + 1 === place?.line ? 'var(--caution-soft)' : undefined,
              }}
            >
              <span className="faint line-number">{item.index + 1}</span>
              {lines[item.index].slice(0, 4000)}
            </div>
          ))}
        </div>
      </div>
    </>
  );
}
