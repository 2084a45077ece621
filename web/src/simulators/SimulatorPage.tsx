import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Select, Skeleton, Switch, Tooltip } from 'antd';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, ApiProblem } from '../api/client';
import type { Contract, Endpoint, Simulator, SimulatorRule } from '../api/types';
import { Trouble } from '../shared/parts';
import { useKeys } from '../shared/useKeys';
import { Received } from './Received';
import { RuleDrawer } from './RuleDrawer';
import { RuleTable } from './RuleTable';
import css from './SimulatorPage.module.css';

/** A simulator: its rules in the middle, what it received on the right. */
export function SimulatorPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const [rules, setRules] = useState<SimulatorRule[]>();
  const [editing, setEditing] = useState<number>();
  const [error, setError] = useState<unknown>();
  const simulator = useQuery({
    queryKey: ['simulator', id],
    queryFn: () => api.get<Simulator>(`/simulators/${id}`),
  });
  const contract = useQuery({
    queryKey: ['contract', String(simulator.data?.contractId)],
    queryFn: () => api.get<Contract>(`/contracts/${simulator.data?.contractId}`),
    enabled: !!simulator.data,
  });
  const endpoints = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  const kept = simulator.data;
  const shown = rules ?? kept?.rules ?? [];
  const operations = contract.data?.operations.filter((o) => o.callable) ?? [];

  const save = async (next = shown, running = kept?.running ?? true) => {
    if (!kept) return;
    setError(undefined);
    try {
      const saved = await api.put<Simulator>(
        `/simulators/${id}`,
        { name: kept.name, rules: next, running },
        { 'If-Match': String(kept.version) },
      );
      client.setQueryData(['simulator', id], saved);
      setRules(undefined);
    } catch (e) {
      if (e instanceof ApiProblem && e.code === 'changed') void simulator.refetch();
      setRules(next);
      setError(e);
    }
  };
  const use = async (endpoint: string) => {
    client.setQueryData(
      ['simulator', id],
      await api.post<Simulator>(`/simulators/${id}/endpoints`, { endpoint }),
    );
    await client.invalidateQueries({ queryKey: ['endpoints'] });
    void message.success(`Answers for ${endpoint} in the environment Simulator`);
  };
  const remove = () =>
    modal.confirm({
      title: `Remove ${kept?.name}?`,
      content: 'Its rules and the requests it received are removed too.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/simulators/${id}`);
        await client.invalidateQueries({ queryKey: ['simulators'] });
        navigate('/settings?tab=simulators');
      },
    });
  const add = () => setEditing(shown.length);
  useKeys({ a: add });
  if (simulator.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!kept)
    return (
      <div className="page">
        <Trouble error={simulator.error} />
      </div>
    );
  const edited =
    editing === undefined
      ? undefined
      : (shown[editing] ?? { operation: operations[0]?.key ?? '', example: true });
  return (
    <div className={css.page}>
      <div className={css.head}>
        <Link to="/settings?tab=simulators">Simulators</Link> <b className="clip">{kept.name}</b>
        <span className="dim">
          of <Link to={`/contracts/${kept.contractId}`}>{kept.contract}</Link>
        </span>
        <Tooltip title="Copy the address">
          <button
            type="button"
            className="mono linkish plain-link"
            onClick={() => {
              void navigator.clipboard?.writeText(kept.address);
              void message.success('Copied');
            }}
          >
            {kept.address}
          </button>
        </Tooltip>
        <span className="grow" />
        <span className="dim">answers for</span>
        <Select
          size="small"
          aria-label="Answers for"
          className="pick-l"
          placeholder="no endpoint yet"
          value={kept.endpoints[0]}
          options={endpoints.data?.map((e) => ({ value: e.name }))}
          onChange={(name: string) => void use(name)}
        />
        <label className="row dim">
          <Switch size="small" checked={kept.running} onChange={(on) => void save(shown, on)} />{' '}
          {kept.running ? 'running' : 'switched off'}
        </label>
        <Button size="small" type="text" danger onClick={remove}>
          Remove
        </Button>
      </div>
      <div className={css.left}>
        <Trouble error={error} />
        <div className="row gap-below">
          <p className="dim grow flush">
            The first rule that holds answers. A rule can also be taught: on the bench, a call that was
            answered has “Teach the simulator”.
          </p>
          <Tooltip title="A">
            <Button type="primary" disabled={operations.length === 0} onClick={add}>
              Add a rule
            </Button>
          </Tooltip>
        </div>
        <RuleTable rules={shown} onChange={(next) => void save(next)} onEdit={setEditing} />
        {kept.running && (
          <p className="gap-above">
            <Link to={`/bench/${kept.contractId}`}>Try it on the bench</Link>{' '}
            <span className="dim">in the environment Simulator</span>
          </p>
        )}
      </div>
      <div className={css.right}>
        <Received simulator={kept.id} />
      </div>
      {edited && editing !== undefined && (
        <RuleDrawer
          key={editing}
          contract={kept.contractId}
          operations={operations}
          rule={edited}
          onClose={() => setEditing(undefined)}
          onDone={(rule) => {
            const next = [...shown];
            next[editing] = rule;
            setEditing(undefined);
            void save(next);
          }}
        />
      )}
    </div>
  );
}
