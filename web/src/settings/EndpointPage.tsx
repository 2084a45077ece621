import { useQuery, useQueryClient } from '@tanstack/react-query';
import { App, Button, Input, Segmented, Skeleton, Tooltip } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { api } from '../api/client';
import type {
  Endpoint,
  EndpointAdvice,
  EndpointSettings,
  EndpointTestResult,
  MessageStyle,
} from '../api/types';
import { type Environment, SIMULATOR, useEnvironment, useEnvironments, useLive } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { useKeys } from '../shared/useKeys';
import { useMe } from '../shared/useMe';
import { Destination, destination } from './destination';
import { EndpointForm } from './EndpointForm';
import css from './EndpointPage.module.css';
import { TestSteps } from './TestSteps';
import { useElsewhere } from './useElsewhere';

interface Draft {
  address: string;
  settings: EndpointSettings;
  style: MessageStyle;
}

/** One endpoint in one environment: where it is, what reaching it takes, and a test that tells what works. */
export function EndpointPage() {
  const { id } = useParams();
  const navigate = useNavigate();
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  const chosen = useEnvironment();
  const live = useLive();
  const names = useEnvironments().map((e) => e.name);
  const [search, setSearch] = useSearchParams();
  const environment: Environment = names.find((e) => e === search.get('environment')) ?? chosen;
  const endpoints = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  const advice = useQuery({
    queryKey: ['endpoint-advice'],
    queryFn: () => api.get<EndpointAdvice[]>('/endpoint-advice'),
  });
  const endpoint = endpoints.data?.find((e) => e.id === Number(id));
  const kept: Draft | undefined = endpoint && {
    address: endpoint.environments[environment]?.address ?? '',
    settings: endpoint.environments[environment]?.settings ?? {},
    style: endpoint.style,
  };
  const [draft, setDraft] = useState<Draft>();
  const [error, setError] = useState<unknown>();
  const [result, setResult] = useState<EndpointTestResult>();
  const [testing, setTesting] = useState(false);
  const turn = useRef(0);
  const elsewhere = useElsewhere();
  const me = useMe();
  useEffect(() => {
    setDraft(undefined);
    setResult(undefined);
    setError(undefined);
  }, [id, environment]);
  const shown = draft ?? kept;
  const changed = draft !== undefined && JSON.stringify(draft) !== JSON.stringify(kept);
  const edit = (part: Partial<Draft>) => shown && setDraft({ ...shown, ...part });

  const save = async (next = shown) => {
    if (!next || !endpoint) return;
    setError(undefined);
    try {
      await api.put(`/endpoints/${id}/environments/${environment}`, {
        address: next.address,
        settings: next.settings,
      });
      await api.put('/endpoints', { name: endpoint.name, style: next.style });
      await client.invalidateQueries({ queryKey: ['endpoints'] });
      await client.invalidateQueries({ queryKey: ['secrets'] });
      setDraft(undefined);
      void message.success(`Saved for ${environment}`);
    } catch (e) {
      if (!elsewhere(e, () => void save(next))) setError(e);
    }
  };
  const test = async (next = shown) => {
    if (!next) return;
    const mine = ++turn.current;
    setTesting(true);
    setError(undefined);
    setResult(undefined);
    try {
      const found = await api.post<EndpointTestResult>(`/endpoints/${id}/test`, {
        address: next.address,
        settings: next.settings,
      });
      if (mine === turn.current) setResult(found);
    } catch (e) {
      if (mine === turn.current && !elsewhere(e, () => void test(next))) setError(e);
    }
    if (mine === turn.current) setTesting(false);
  };
  const cancel = () => {
    turn.current++;
    setTesting(false);
  };
  const trust = async (fingerprint: string) => {
    if (!shown) return;
    const tls = shown.settings.tls ?? {};
    const next = {
      ...shown,
      settings: {
        ...shown.settings,
        tls: { ...tls, fingerprints: [...(tls.fingerprints ?? []), fingerprint] },
      },
    };
    setDraft(next);
    await save(next);
    await test(next);
  };
  const remove = () =>
    modal.confirm({
      title: `Remove ${endpoint?.name}?`,
      content: 'Flows that call it then have no address.',
      okText: 'Remove',
      okButtonProps: { danger: true },
      onOk: async () => {
        await api.remove(`/endpoints/${id}`);
        await client.invalidateQueries({ queryKey: ['endpoints'] });
        navigate('/settings?tab=endpoints');
      },
    });
  useKeys({ 'Ctrl+s': () => void save(), 'Ctrl+Enter': () => void test() }, ['Ctrl+s', 'Ctrl+Enter']);

  if (endpoints.isPending)
    return (
      <div className="page">
        <Skeleton active />
      </div>
    );
  if (!endpoint || !shown)
    return (
      <div className="page">
        <Trouble error={endpoints.error ?? new Error('There is no such endpoint (any more).')} />
      </div>
    );
  const wanted = advice.data?.filter((a) => a.endpoint === endpoint.name) ?? [];
  const other = names.find(
    (e) => e !== environment && Object.keys(endpoint.environments[e]?.settings ?? {}).length > 0,
  );
  const simulated = environment === SIMULATOR && endpoint.simulator !== undefined;
  return (
    <div className={css.page}>
      <div className={css.head}>
        <Link to="/settings?tab=endpoints">Endpoints</Link> <b className="clip">{endpoint.name}</b>
        <Segmented<Environment>
          size="small"
          value={environment}
          onChange={(e) => setSearch({ environment: e })}
          options={names}
        />
        {changed && <span className="chip caution">not saved</span>}
        <span className="grow" />
        {other && (
          <Button
            size="small"
            onClick={() => edit({ settings: endpoint.environments[other]?.settings ?? {} })}
          >
            Settings as in {other}
          </Button>
        )}
        {me.manage && (
          <Button size="small" type="text" danger onClick={remove}>
            Remove
          </Button>
        )}
        {testing ? (
          <Button onClick={cancel}>Cancel the test</Button>
        ) : (
          <Tooltip title="Ctrl Enter">
            <Button disabled={!shown.address || !me.manage} onClick={() => void test()}>
              Test this endpoint
            </Button>
          </Tooltip>
        )}
        <Tooltip title="Ctrl S">
          <Button
            type="primary"
            disabled={!changed || !me.manage}
            danger={live(environment)}
            onClick={() => void save()}
          >
            Save for {environment}
          </Button>
        </Tooltip>
      </div>
      <div className={css.left}>
        <Trouble error={error} />
        <div className="row gap-below-s">
          <span className="dim field-m rigid">Address</span>
          <Input
            className="mono"
            aria-label="Address"
            placeholder={`where it is in ${environment}`}
            disabled={simulated}
            value={shown.address}
            onChange={(e) => edit({ address: e.target.value })}
          />
          {simulated && (
            <Link to={`/simulators/${endpoint.simulator}`} className="nowrap">
              its simulator
            </Link>
          )}
        </div>
        <Destination.Provider value={destination(shown.address)}>
          <EndpointForm
            settings={shown.settings}
            onChange={(settings) => edit({ settings })}
            style={shown.style}
            onStyle={(style) => edit({ style })}
          />
        </Destination.Provider>
      </div>
      <div className={css.right}>
        {wanted.map((a) => (
          <p key={a.contract + a.port} className="flush-top">
            <span className="chip caution">
              {a.contract} · {a.port}
            </span>{' '}
            The service {a.sentences.join('; ')}.
          </p>
        ))}
        {testing && <p className="dim">Trying {shown.address} …</p>}
        {result && (
          <TestSteps
            result={result}
            trusted={shown.settings.tls?.fingerprints ?? []}
            onTrust={(f) => void trust(f)}
          />
        )}
        {!result && !testing && (
          <p className="dim">
            The test shows step by step what works: name, connection, TLS, HTTP with its login, SOAP with its
            security header, and its session. It sends an empty message, which no service can take for a
            change.
          </p>
        )}
      </div>
    </div>
  );
}
