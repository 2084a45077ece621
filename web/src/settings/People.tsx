import { useQueryClient } from '@tanstack/react-query';
import { App, Button, Checkbox, Input, Modal, Table } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { Person } from '../api/types';
import { useEnvironments } from '../shared/environment';
import { NewPassword } from '../shared/NewPassword';
import { Find, usePaged } from '../shared/paged';
import { Trouble } from '../shared/parts';

type Rights = Pick<Person, 'build' | 'manage' | 'run'>;
const NONE: Rights = { build: false, manage: false, run: [] };

/** Everybody who may sign in, and what they may do beyond looking. */
export function People({ me }: { me: Person }) {
  const client = useQueryClient();
  const { modal } = App.useApp();
  const [adding, setAdding] = useState(false);
  const [password, setPassword] = useState<Person>();
  const [error, setError] = useState<unknown>();
  const people = usePaged<Person>('people');
  const act = async (work: Promise<unknown>) => {
    setError(undefined);
    try {
      await work;
      await client.invalidateQueries({ queryKey: ['people'] });
    } catch (e) {
      setError(e);
    }
  };
  const rights = (person: Person, next: Rights) => act(api.put(`/people/${person.id}/rights`, next));
  const remove = (person: Person) =>
    modal.confirm({
      title: `Remove ${person.name}?`,
      content: 'Their sessions end. What they made stays.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: () => act(api.remove(`/people/${person.id}`)),
    });
  return (
    <>
      <p className="dim">
        Everybody may look. <b>Build</b>: make and change contracts, datasets, flows, simulators. <b>Run</b>:
        call services and start runs, in the environments named. <b>Manage</b>: secrets, endpoints, hosts,
        people; and remove what others made.
      </p>
      <div className="row gap-below">
        <Button type="primary" onClick={() => setAdding(true)}>
          Add a person
        </Button>
        <span className="grow" />
        <Find placeholder="Find a person" onFind={people.find} />
      </div>
      <Trouble error={error ?? people.list.error} />
      <Table<Person>
        {...people.table}
        columns={[
          {
            title: 'Name',
            ellipsis: true,
            render: (_, p) => (
              <>
                {p.name}
                {p.id === me.id && <span className="dim"> (you)</span>}
              </>
            ),
          },
          {
            title: 'Rights',
            width: 500,
            render: (_, p) => <RightBoxes of={p.name} value={p} onChange={(next) => void rights(p, next)} />,
          },
          {
            width: 200,
            align: 'right',
            render: (_, p) => (
              <>
                <Button size="small" type="text" onClick={() => setPassword(p)}>
                  New password
                </Button>
                {p.id !== me.id && (
                  <Button size="small" type="text" danger onClick={() => remove(p)}>
                    Remove
                  </Button>
                )}
              </>
            ),
          },
        ]}
      />
      {adding && (
        <AddPerson
          onClose={() => {
            setAdding(false);
            void client.invalidateQueries({ queryKey: ['people'] });
          }}
        />
      )}
      {password && (
        <NewPassword person={password} own={password.id === me.id} onClose={() => setPassword(undefined)} />
      )}
    </>
  );
}

/** A box for each right; run has one for each environment. */
function RightBoxes({
  of,
  value,
  onChange,
}: {
  of: string;
  value: Rights;
  onChange: (next: Rights) => void;
}) {
  const { build, manage, run } = value;
  const environments = useEnvironments();
  return (
    <div className="row wraps" role="group" aria-label={`rights of ${of}`}>
      <Checkbox checked={build} onChange={(e) => onChange({ build: e.target.checked, manage, run })}>
        build
      </Checkbox>
      {environments.map(({ name, live }) => (
        <Checkbox
          key={name}
          checked={run.includes(name)}
          onChange={(e) =>
            onChange({
              build,
              manage,
              run: e.target.checked ? [...run, name] : run.filter((r) => r !== name),
            })
          }
        >
          {live ? <b>run {name}</b> : `run ${name}`}
        </Checkbox>
      ))}
      <Checkbox checked={manage} onChange={(e) => onChange({ build, manage: e.target.checked, run })}>
        manage
      </Checkbox>
    </div>
  );
}

function AddPerson({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const [edited, setRights] = useState<Rights>();
  const harmless = useEnvironments().flatMap((e) => (e.live ? [] : [e.name]));
  const rights = edited ?? { ...NONE, build: true, run: harmless };
  const [error, setError] = useState<unknown>();
  const add = async () => {
    setError(undefined);
    try {
      await api.post('/people', { name, password, rights });
      onClose();
    } catch (e) {
      setError(e);
    }
  };
  return (
    <Modal
      open
      title="Add a person"
      width={620}
      okText="Add"
      okButtonProps={{ disabled: !name.trim() || !password }}
      onOk={() => void add()}
      onCancel={onClose}
      destroyOnHidden
    >
      <div className="stack loose">
        <Input
          autoFocus
          placeholder="Name"
          aria-label="Name"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Input.Password
          placeholder="First password, at least 12 characters"
          aria-label="First password"
          autoComplete="new-password"
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        <RightBoxes of="the new person" value={rights} onChange={setRights} />
        <Trouble error={error} />
      </div>
    </Modal>
  );
}
