import { useQuery } from '@tanstack/react-query';
import { Input, Modal } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, query } from '../api/client';
import type { Found } from '../api/types';
import css from './Shell.module.css';

/** Finds flows, contracts, operations, datasets and runs by name. */
export function Finder({ onClose }: { onClose: () => void }) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ['find', text],
    queryFn: () => api.get<Found[]>(`/find${query({ q: text })}`),
    placeholderData: (before) => before,
  });
  const items = found.data ?? [];
  const go = (item: Found | undefined) => {
    if (!item) return;
    onClose();
    navigate(item.address);
  };
  return (
    <Modal open onCancel={onClose} footer={null} closable={false} width={600} className="near-top">
      <Input
        autoFocus
        size="large"
        placeholder="A flow, contract, operation, dataset or run"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') setAt((n) => Math.min(items.length - 1, n + 1));
          if (e.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
          if (e.key === 'Enter') go(items[at]);
        }}
      />
      <div className="gap-above found-list">
        {items.map((item, i) => (
          <div
            key={item.address + item.name}
            className={`${css.found} ${i === at ? css.on : ''}`}
            onMouseEnter={() => setAt(i)}
            onClick={() => go(item)}
          >
            <span className={css.kind}>{item.kind}</span>
            <span>{item.name}</span>
            <span className="dim clip grow">{item.detail}</span>
          </div>
        ))}
        {found.isSuccess && items.length === 0 && <div className="dim pad">Nothing has that name.</div>}
      </div>
    </Modal>
  );
}
