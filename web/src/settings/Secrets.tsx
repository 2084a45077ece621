import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Input, Modal, Select, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Secret } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { useMe } from '../shared/useMe';
import { NewSecret } from './NewSecret';
import { Until } from './Until';

/** Every secret by name: who uses it and when its key ends, never its value. */
export function Secrets() {
  const client = useQueryClient();
  const [find, setFind] = useState('');
  const [writing, setWriting] = useState<{ name?: string; kind?: 'text' | 'key' }>();
  const [places, setPlaces] = useState<Secret>();
  const me = useMe();
  const [error, setError] = useState<unknown>();
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  const remove = async (path: string) => {
    setError(undefined);
    try {
      await api.remove(`/secrets/${path}`);
      await client.invalidateQueries({ queryKey: ['secrets'] });
    } catch (e) {
      setError(e);
    }
  };
  return (
    <>
      <div className="row gap-below">
        <p className="dim grow">
          Passwords, tokens and keys that endpoints use by name. They are encrypted, never shown again, sent
          only to the places listed here, and hidden in every answer.
        </p>
        {me.manage && (
          <Button type="primary" onClick={() => setWriting({})}>
            New secret
          </Button>
        )}
        <Input.Search
          allowClear
          className="field-xl"
          placeholder="Find a secret"
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <Trouble error={error ?? secrets.error} />
      <Table<Secret>
        size="small"
        rowKey="name"
        loading={secrets.isPending}
        dataSource={secrets.data?.filter((s) =>
          `${s.name} ${s.owner ?? ''} ${s.usedBy.join(' ')}`.toLowerCase().includes(find.toLowerCase()),
        )}
        pagination={{ pageSize: 20, hideOnSinglePage: true }}
        locale={{
          emptyText: 'None yet. An endpoint with a login, a client certificate or a signature needs one.',
        }}
        columns={[
          { title: 'Name', dataIndex: 'name', sorter: (a, b) => a.name.localeCompare(b.name) },
          {
            title: 'Kind',
            width: 190,
            render: (_, s) =>
              s.kind === 'key' ? (
                <>
                  key of {s.owner}
                  <div>
                    <Until at={s.validUntil} />
                  </div>
                </>
              ) : (
                'password or token'
              ),
            sorter: (a, b) => a.kind.localeCompare(b.kind),
          },
          {
            title: 'Used by',
            render: (_, s) =>
              s.usedBy.length > 0 ? s.usedBy.join(', ') : <span className="faint">nobody</span>,
          },
          {
            title: 'Sent to',
            width: 230,
            render: (_, s) => (
              <button
                type="button"
                className="linkish mono left"
                disabled={!me.manage}
                onClick={() => setPlaces(s)}
              >
                {s.destinations.length > 0 ? s.destinations.map((d) => <div key={d}>{d}</div>) : 'nowhere'}
              </button>
            ),
          },
          {
            title: 'Written',
            width: 170,
            render: (_, s) => (
              <>
                <When at={s.changedAt} /> <span className="dim">by {s.changedBy}</span>
                {s.nextFrom && (
                  <div className="caution" title={`written by ${s.nextBy}`}>
                    another <When at={s.nextFrom} />
                    {me.manage && (
                      <Button
                        size="small"
                        type="text"
                        aria-label={`Forget the next value of ${s.name}`}
                        onClick={() => void remove(`${encodeURIComponent(s.name)}/next`)}
                      >
                        Forget it
                      </Button>
                    )}
                  </div>
                )}
              </>
            ),
            sorter: (a, b) => a.changedAt.localeCompare(b.changedAt),
          },
          {
            width: 190,
            className: 'nowrap',
            render: (_, s) =>
              me.manage && (
                <>
                  <Button
                    size="small"
                    type="text"
                    onClick={() => setWriting({ name: s.name, kind: s.kind === 'key' ? 'key' : 'text' })}
                  >
                    Write again
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    danger
                    onClick={() => void remove(encodeURIComponent(s.name))}
                  >
                    Remove
                  </Button>
                </>
              ),
          },
        ]}
      />
      {places && <Places secret={places} onClose={() => setPlaces(undefined)} />}
      {writing && <NewSecret {...writing} onClose={() => setWriting(undefined)} />}
    </>
  );
}

/** Where a secret may be sent, as host:port: to nothing else, tests and simulators included. */
function Places({ secret, onClose }: { secret: Secret; onClose: () => void }) {
  const client = useQueryClient();
  const [destinations, setDestinations] = useState(secret.destinations);
  const [error, setError] = useState<unknown>();
  const save = async () => {
    setError(undefined);
    try {
      await api.put(`/secrets/${encodeURIComponent(secret.name)}/destinations`, { destinations });
      await client.invalidateQueries({ queryKey: ['secrets'] });
      onClose();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      title={`Where “${secret.name}” may be sent`}
      okText="Save"
      onOk={() => void save()}
      onCancel={onClose}
      destroyOnHidden
    >
      <Select
        mode="tags"
        autoFocus
        aria-label="Sent to"
        className="mono full"
        open={false}
        placeholder="host:port, as register.invalid:443"
        tokenSeparators={[' ', ',']}
        value={destinations}
        onChange={setDestinations}
      />
      <p className="dim">
        Host and port of the services it belongs to. An address is taken by its host and port.
      </p>
      <Trouble error={error} />
    </Modal>
  );
}
