import { useQueryClient } from '@tanstack/react-query';
import { Input, Modal, Segmented, Upload } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Secret } from '../api/types';
import { Trouble } from '../shared/parts';

type Kind = 'text' | 'key';

/** Writes a secret: a password or token typed in, or a key from a file. What was written is never shown again. */
export function NewSecret({
  name: given,
  kind: wanted,
  to,
  onClose,
}: {
  name?: string;
  kind?: Kind;
  to?: string;
  onClose: (made?: Secret) => void;
}) {
  const client = useQueryClient();
  const [name, setName] = useState(given ?? '');
  const [kind, setKind] = useState<Kind>(wanted ?? 'text');
  const [value, setValue] = useState('');
  const [sentTo, setSentTo] = useState(to ?? '');
  const [from, setFrom] = useState('');
  const [password, setPassword] = useState('');
  const [file, setFile] = useState<File>();
  const [error, setError] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const write = async () => {
    setError(undefined);
    setBusy(true);
    try {
      const at = `/secrets/${encodeURIComponent(name.trim())}`;
      const form = new FormData();
      if (file) form.append('file', file, file.name);
      form.append('password', password);
      const later = from ? new Date(from).toISOString() : undefined;
      if (later) form.append('from', later);
      let made =
        kind === 'text'
          ? await api.put<Secret>(at, { value, from: later })
          : await api.post<Secret>(`${at}/key`, form);
      if (sentTo.trim()) {
        const destinations = [...made.destinations, ...sentTo.split(/[\s,]+/).filter(Boolean)];
        made = await api.put<Secret>(`${at}/destinations`, { destinations });
      }
      await client.invalidateQueries({ queryKey: ['secrets'] });
      onClose(made);
    } catch (e) {
      setError(e);
    }
    setBusy(false);
  };
  const ready = name.trim() && (kind === 'text' ? value : file);
  return (
    <Modal
      open
      title={given ? `Write “${given}” again` : 'New secret'}
      okText="Write"
      okButtonProps={{ disabled: !ready, loading: busy }}
      onOk={() => void write()}
      onCancel={() => onClose()}
      destroyOnHidden
    >
      <div className="stack loose">
        {!given && (
          <Input
            autoFocus
            placeholder="Name, as “vanline password test”"
            aria-label="Secret name"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        )}
        {!wanted && (
          <Segmented<Kind>
            value={kind}
            onChange={setKind}
            options={[
              { value: 'text', label: 'Password or token' },
              { value: 'key', label: 'Key with certificate' },
            ]}
          />
        )}
        {kind === 'text' ? (
          <Input.Password
            autoFocus={!!given}
            placeholder="Value"
            aria-label="Secret value"
            autoComplete="new-password"
            visibilityToggle={false}
            value={value}
            onChange={(e) => setValue(e.target.value)}
            onPressEnter={() => ready && void write()}
          />
        ) : (
          <>
            <Upload.Dragger
              maxCount={1}
              accept=".p12,.pfx,.pem,.key,.crt,.txt"
              beforeUpload={(f) => {
                setFile(f);
                return false;
              }}
              onRemove={() => setFile(undefined)}
            >
              <p className="dim flush">A PKCS#12 file, or PEM text with private key and certificate</p>
            </Upload.Dragger>
            <Input.Password
              placeholder="Password of the file, when it has one"
              aria-label="File password"
              autoComplete="new-password"
              visibilityToggle={false}
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          </>
        )}
        {!given && (
          <Input
            className="mono"
            placeholder="May be sent to, as register.invalid:443"
            aria-label="Sent to"
            value={sentTo}
            onChange={(e) => setSentTo(e.target.value)}
          />
        )}
        {given && (
          <label className="row">
            <span className="dim">Counts from</span>
            <Input
              type="datetime-local"
              className="field-xl"
              aria-label="Counts from"
              value={from}
              onChange={(e) => setFrom(e.target.value)}
            />
            <span className="dim">{from ? 'until then the value before is sent' : 'empty: at once'}</span>
          </label>
        )}
        <p className="dim flush">It is encrypted and never shown again; only its name is.</p>
        <Trouble error={error} />
      </div>
    </Modal>
  );
}
