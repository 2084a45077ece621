import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { EnvironmentOf } from '../api/types';
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
  const datasets = useDatasets().map((d) => ({ value: d.name, label: d.name }));
  return (
    <EnvironmentGrid
      {...its}
      title="Datasets and folders"
      thing="dataset"
      says="A flow that runs there reads and writes the other one in the place of the one it names."
      empty="None yet: every environment has the same. Let a table of the test database stand for the live one."
      newName={(add, taken) => (
        <Select
          showSearch
          className="field-l"
          aria-label="Dataset that differs"
          placeholder="a dataset that differs"
          value={null}
          options={datasets.filter((d) => !taken.includes(d.value))}
          onChange={add}
        />
      )}
      entries={(e) => e.datasets}
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
          options={datasets.filter((d) => d.value !== n)}
          onChange={(to?: string) => save(to ?? '')}
        />
      )}
    />
  );
}
