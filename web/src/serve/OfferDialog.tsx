import { useQueryClient } from '@tanstack/react-query';
import { Button, Checkbox, Form, Input, Modal, Segmented, Select, Typography } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { Flow, ReadStage } from '../api/flow';
import type { Offer, OfferedOperation } from '../api/types';
import { useEnvironment, useEnvironments } from '../shared/environment';
import { Trouble } from '../shared/parts';
import { AskPanel } from './AskPanel';

/** Offers an operation to callers, as JSON or as SOAP, and asks it at once. */
export function OfferDialog({
  contract,
  operation,
  onClose,
}: {
  contract: string;
  operation: OfferedOperation;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const chosen = useEnvironment();
  const environments = useEnvironments();
  const [environment, setEnvironment] = useState(chosen);
  const [name, setName] = useState('');
  const [soap, setSoap] = useState(false);
  const [wholePort, setWholePort] = useState(false);
  const [made, setMade] = useState<{ offer: Offer; sample: string }>();
  const [error, setError] = useState<unknown>();
  const [busy, setBusy] = useState(false);
  const offer = async () => {
    setError(undefined);
    setBusy(true);
    try {
      const its = await api.post<Offer>('/offers', {
        contract,
        service: operation.service,
        port: operation.port,
        operation: operation.key,
        environment,
        name: name || undefined,
        soap: soap || undefined,
        wholePort: (soap && wholePort) || undefined,
      });
      const flow = await api.get<Flow>(`/flows/${its.flow}`);
      const read = flow.file.stages[0] as ReadStage;
      setMade({ offer: its, sample: read.input?.samples?.[0] ?? '{}' });
      await client.invalidateQueries({ queryKey: ['flows'] });
    } catch (e) {
      setError(e);
    }
    setBusy(false);
  };
  const live = environments.find((e) => e.name === environment)?.live;
  return (
    <Modal
      open
      width={760}
      title={made ? `${operation.key} answers ${soap ? 'SOAP and JSON' : 'JSON'}` : `Offer ${operation.key}`}
      okText="Offer"
      okButtonProps={{ loading: busy }}
      footer={made ? null : undefined}
      onOk={() => void offer()}
      onCancel={onClose}
    >
      <Trouble error={error} />
      {!made && (
        <Form
          colon={false}
          layout="horizontal"
          labelCol={{ flex: '130px' }}
          labelAlign="left"
          size="small"
          className="gap-above"
        >
          <Form.Item
            label="In"
            extra={
              live
                ? 'A flow is built; what is live is published by comparing.'
                : 'A flow is built, published there, and answers at once.'
            }
          >
            <Select
              aria-label="Environment of the offer"
              className="field-xl"
              value={environment}
              onChange={setEnvironment}
              options={environments.map((e) => ({ value: e.name, label: e.name }))}
            />
          </Form.Item>
          {operation.protocol.startsWith('SOAP') && (
            <Form.Item label="As">
              <Segmented
                value={soap ? 'soap' : 'json'}
                onChange={(v) => setSoap(v === 'soap')}
                options={[
                  { value: 'json', label: 'JSON' },
                  { value: 'soap', label: 'SOAP, by the same contract' },
                ]}
              />
              {soap && (
                <Checkbox
                  className="gap-above-s"
                  checked={wholePort}
                  onChange={(e) => setWholePort(e.target.checked)}
                >
                  all of {operation.port}, a flow for each operation
                </Checkbox>
              )}
            </Form.Item>
          )}
          <Form.Item label="Flow" hidden={soap && wholePort}>
            <Input
              aria-label="Name of the flow"
              placeholder={`${operation.key} as ${soap ? 'SOAP' : 'JSON'}`}
              value={name}
              onChange={(e) => setName(e.target.value)}
              onPressEnter={() => void offer()}
            />
          </Form.Item>
          <p className="dim">
            {soap
              ? 'It stands in front of the real service: the request goes on to it, its reply and its faults come' +
                ' back. All of it can be changed like any flow, and what is answered by JSON is told, too.'
              : 'Its input mirrors the request, its answer the reply; a fault becomes problem details. All of it' +
                ' can be changed like any flow.'}
          </p>
        </Form>
      )}
      {made?.offer.path && (
        <div className="stack loose">
          <p className="flush">
            The first key is{' '}
            <Typography.Text code copyable>
              {made.offer.key}
            </Typography.Text>
            : it is told this once. Others are made with the flow’s triggers.
          </p>
          {made.offer.soap && <SoapAddress path={made.offer.soap} operations={made.offer.operations} />}
          <AskPanel path={made.offer.path} known={made.offer.key ?? ''} sample={made.sample} />
        </div>
      )}
      {made && (
        <p className="row gap-above">
          <Link to={`/flows/${made.offer.flow}`}>
            <Button type={made.offer.path ? 'default' : 'primary'}>Open the flow</Button>
          </Link>
          {made.offer.path ? (
            <Link to={`/flows/${made.offer.flow}/triggers`}>
              <Button>Keys and limits</Button>
            </Link>
          ) : (
            <span className="dim">Publish it in {environment}, and add a trigger that answers callers.</span>
          )}
        </p>
      )}
    </Modal>
  );
}

/** Where a service answers, and where it is described. */
export function SoapAddress({ path, operations }: { path: string; operations?: number }) {
  return (
    <p className="flush">
      As SOAP it answers at <span className="mono">{path}</span>
      {operations !== undefined && operations > 1 && <> with {operations} operations</>}:{' '}
      <a href={`${path}?wsdl`} target="_blank" rel="noreferrer">
        service description
      </a>
    </p>
  );
}
