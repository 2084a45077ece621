import { useQuery } from '@tanstack/react-query';
import { Button, Input, Modal, Upload } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Certificate } from '../api/types';
import { Trouble } from '../shared/parts';
import { Until } from './Until';

/** Certificates kept as PEM text, each shown by whom it names; more come from a file or pasted text. */
export function Certificates({
  pems,
  onChange,
  add,
}: {
  pems: string[];
  onChange: (pems: string[]) => void;
  add: string;
}) {
  const [adding, setAdding] = useState(false);
  const [text, setText] = useState('');
  const [error, setError] = useState<unknown>();
  const shown = useQuery({
    queryKey: ['certificates', pems],
    queryFn: () => Promise.all(pems.map((pem) => api.post<Certificate[]>('/certificates', { pem }))),
    enabled: pems.length > 0,
    staleTime: Infinity,
  });
  const take = async () => {
    setError(undefined);
    try {
      const found = await api.post<Certificate[]>('/certificates', { pem: text });
      onChange([...pems, ...found.map((c) => c.pem).filter((pem) => !pems.includes(pem))]);
      setText('');
      setAdding(false);
    } catch (e) {
      setError(e);
    }
  };
  return (
    <div className="stack tight">
      {pems.map((pem, i) => {
        const c = shown.data?.[i]?.[0];
        return (
          <div key={pem} className="row">
            <span className="clip" title={c && `signed by ${c.issuer}, fingerprint ${c.fingerprint}`}>
              {c?.subject ?? '…'}
            </span>{' '}
            <Until at={c?.validUntil} />
            <Button
              size="small"
              type="text"
              aria-label={`Remove certificate ${c?.subject ?? i + 1}`}
              onClick={() => onChange(pems.filter((p) => p !== pem))}
            >
              ×
            </Button>
          </div>
        );
      })}
      <button type="button" className="linkish" onClick={() => setAdding(true)}>
        {add}
      </button>
      {adding && (
        <Modal
          open
          title="Certificates as PEM text"
          okText="Add"
          okButtonProps={{ disabled: !text.trim() }}
          onOk={() => void take()}
          onCancel={() => setAdding(false)}
        >
          <Input.TextArea
            autoFocus
            className="mono"
            rows={9}
            aria-label="PEM text"
            placeholder="-----BEGIN CERTIFICATE-----"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <Upload
            accept=".pem,.crt,.cer,.txt"
            showUploadList={false}
            beforeUpload={(file) => {
              void file.text().then(setText);
              return false;
            }}
          >
            <Button size="small" className="gap-above">
              From a file
            </Button>
          </Upload>
          <Trouble error={error} />
        </Modal>
      )}
    </div>
  );
}
