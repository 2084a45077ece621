import { useQuery } from '@tanstack/react-query';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import type { EnvironmentOf, Secret } from '../api/types';
import { useDatasets } from '../flows/useChoices';
import { type Entries, EnvironmentGrid } from './EnvironmentGrid';

type Its = {
  all: EnvironmentOf[];
  editable: boolean;
  onChange: (of: EnvironmentOf, entries: Entries) => Promise<void>;
};

/** The named values of all environments. */
export function NamedValues(its: Its) {
  return (
    <EnvironmentGrid
      {...its}
      title="Named values"
      thing="value"
      says={
        <>
          Constants that differ between environments. A flow reaches them as{' '}
          <span className="mono">$env/name</span>.
        </>
      }
      empty="None yet: a company number, a mailbox, the name of a tenant."
      newName={(add) => <NewValue onAdd={add} />}
      entries={(e) => e.values}
      cell={(e, n, value, save) => (
        <Input
          key={value}
          size="small"
          className="mono"
          aria-label={`${n} in ${e.name}`}
          placeholder="not set"
          disabled={!its.editable}
          defaultValue={value}
          onPressEnter={(event) => event.currentTarget.blur()}
          onBlur={(event) => save(event.target.value)}
        />
      )}
    />
  );
}

function NewValue({ onAdd }: { onAdd: (name: string) => void }) {
  const [name, setName] = useState('');
  const add = () => {
    onAdd(name.trim());
    setName('');
  };
  return (
    <>
      <Input
        className="mono field-l"
        placeholder="company_no"
        aria-label="New value"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onPressEnter={() => name.trim() && add()}
      />
      <Button disabled={!name.trim()} onClick={add}>
        Add a value
      </Button>
    </>
  );
}

/** Which datasets, tables and folders stand for others in an environment. */
export function StandIns(its: Its) {
  return (
    <OneForAnother
      {...its}
      title="Datasets and folders"
      thing="dataset"
      says="A flow that runs there reads and writes the other one in the place of the one it names."
      empty="None yet: every environment has the same. Let a table of the test database stand for the live one."
      choices={useDatasets().map((d) => d.name)}
      entries={(e) => e.datasets}
    />
  );
}

/** Which secrets fills send in the place of others in an environment. */
export function StandInSecrets(its: Its) {
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => api.get<Secret[]>('/secrets') });
  return (
    <OneForAnother
      {...its}
      title="Secrets of fills"
      thing="secret"
      says="A fill that names one sends the other there. The settings of endpoints are of one environment already."
      empty="None yet: fills send the same secret everywhere. Let the live licence stand for the one of the test."
      choices={secrets.data?.map((s) => s.name) ?? []}
      entries={(e) => e.secrets}
    />
  );
}

/** What stands for others in an environment, picked among what there is. */
function OneForAnother({
  choices,
  ...its
}: Its & {
  title: string;
  thing: string;
  says: string;
  empty: string;
  choices: string[];
  entries: (of: EnvironmentOf) => Entries;
}) {
  const options = choices.map((name) => ({ value: name, label: name }));
  return (
    <EnvironmentGrid
      {...its}
      newName={(add, taken) => (
        <Select
          showSearch
          className="field-l"
          aria-label={`${its.thing[0]?.toUpperCase()}${its.thing.slice(1)} that differs`}
          placeholder={`a ${its.thing} that differs`}
          value={null}
          options={options.filter((o) => !taken.includes(o.value))}
          onChange={add}
        />
      )}
      cell={(e, n, value, save) => (
        <Select
          size="small"
          showSearch
          allowClear
          className="field-l"
          aria-label={`${n} in ${e.name}`}
          placeholder="the same"
          disabled={!its.editable}
          value={value}
          options={options.filter((o) => o.value !== n)}
          onChange={(to?: string) => save(to ?? '')}
        />
      )}
    />
  );
}
