import { useQuery } from '@tanstack/react-query';
import { Select } from 'antd';
import { useContext, useState } from 'react';
import { api } from '../api/client';
import type { Secret } from '../api/types';
import { Destination } from './destination';
import { NewSecret } from './NewSecret';

const NEW = '\u0000new';

/** Picks a secret by name, or writes a new one on the spot. */
export function SecretPick({
  value,
  onChange,
  kind = 'text',
  label,
}: {
  value?: string;
  onChange: (name: string | undefined) => void;
  kind?: 'text' | 'key';
  label: string;
}) {
  const [writing, setWriting] = useState(false);
  const to = useContext(Destination);
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  const known = secrets.data?.filter((s) => s.kind === kind) ?? [];
  const missing = value && secrets.data && !known.some((s) => s.name === value);
  return (
    <>
      <Select
        size="small"
        allowClear
        showSearch={{ optionFilterProp: 'label' }}
        aria-label={label}
        className="field-2xl"
        popupMatchSelectWidth={false}
        placeholder={kind === 'key' ? 'choose a key' : 'choose a secret'}
        status={missing ? 'error' : undefined}
        value={value}
        onChange={(name?: string) => (name === NEW ? setWriting(true) : onChange(name))}
        options={[
          ...known.map((s) => ({ value: s.name, label: s.owner ? `${s.name} · ${s.owner}` : s.name })),
          { value: NEW, label: kind === 'key' ? '+ New key …' : '+ New secret …' },
        ]}
      />
      {missing && <span className="bad">does not exist</span>}
      {writing && (
        <NewSecret
          kind={kind}
          to={to}
          onClose={(made) => {
            setWriting(false);
            if (made) onChange(made.name);
          }}
        />
      )}
    </>
  );
}
