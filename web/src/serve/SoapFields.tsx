import { Checkbox, Form, Input, Select } from 'antd';
import type { TriggerSpec } from '../api/types';
import { useContracts, useOperations } from '../flows/useChoices';

type Soap = NonNullable<TriggerSpec['soap']>;

/** Whether and how a flow answers as an operation of a SOAP service. */
export function SoapFields({ spec, set }: { spec: TriggerSpec; set: (part: Partial<TriggerSpec>) => void }) {
  const soap = spec.soap;
  const change = (part: Partial<Soap>) => set({ soap: { ...soap, ...part } });
  return (
    <>
      <Form.Item label="Answers SOAP">
        <Checkbox checked={Boolean(soap)} onChange={(e) => set({ soap: e.target.checked ? {} : undefined })}>
          with a service description at <span className="mono">?wsdl</span>
        </Checkbox>
      </Form.Item>
      {soap && (
        <>
          <Form.Item
            label="SOAP address"
            extra="Flows of one address are one service; where it is empty it is the path above."
          >
            <Input
              className="mono"
              aria-label="SOAP address"
              addonBefore="/serve/"
              placeholder={spec.path}
              value={soap.address}
              onChange={(e) => change({ address: e.target.value || undefined })}
            />
          </Form.Item>
          <Operation soap={soap} change={change} />
          <Form.Item label="Key">
            <Checkbox
              checked={soap.token ?? false}
              onChange={(e) => change({ token: e.target.checked || undefined })}
            >
              may be a user name token: its name, and itself as the password
            </Checkbox>
          </Form.Item>
          <Form.Item label="Sent again">
            <Checkbox
              checked={soap.byKey ?? false}
              onChange={(e) => change({ byKey: e.target.checked || undefined })}
            >
              a business key that was there before gets its kept answer, as a message’s id does
            </Checkbox>
          </Form.Item>
        </>
      )}
    </>
  );
}

/** What the operation is: one of a port that is given, or described from the flow. */
function Operation({ soap, change }: { soap: Soap; change: (part: Partial<Soap>) => void }) {
  const all = useContracts();
  const operations = useOperations(soap.contract).filter((o) => o.protocol.startsWith('SOAP'));
  const known = [soap.service, soap.port, soap.operation].join('\n');
  return (
    <>
      <Form.Item label="Described by">
        <Select
          allowClear
          showSearch
          aria-label="Contract that is implemented"
          placeholder="the flow itself"
          value={soap.contract}
          onChange={(name: string | undefined) =>
            change({ contract: name, service: undefined, port: undefined, operation: undefined })
          }
          options={all.map((c) => ({ value: c.name, label: `the contract ${c.name}` }))}
        />
      </Form.Item>
      {soap.contract ? (
        <Form.Item label="Operation">
          <Select
            showSearch
            aria-label="Operation that is answered"
            value={soap.operation ? known : undefined}
            onChange={(value: string) => {
              const [service, port, operation] = value.split('\n');
              change({ service, port, operation });
            }}
            options={operations.map((o) => ({
              value: [o.service, o.port, o.key].join('\n'),
              label: `${o.key}, ${o.port}`,
            }))}
          />
        </Form.Item>
      ) : (
        <Form.Item label="Operation">
          <Input
            aria-label="Name of the operation"
            placeholder="made of the flow’s name"
            value={soap.operation}
            onChange={(e) => change({ operation: e.target.value || undefined })}
          />
        </Form.Item>
      )}
    </>
  );
}
