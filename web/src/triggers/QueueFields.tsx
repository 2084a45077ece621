import { Form, Input } from 'antd';
import type { TriggerSpec } from '../api/types';
import { BoundField } from '../serve/BoundField';
import { FieldsBeside } from '../serve/FieldsBeside';
import { BrokerPick } from '../settings/BrokerPick';

type Queue = NonNullable<TriggerSpec['queue']>;

/** The queue whose messages are records, where their answers go, and within what bounds they are taken. */
export function QueueFields({
  environment,
  spec,
  set,
}: {
  environment: string;
  spec: TriggerSpec;
  set: (part: Partial<TriggerSpec>) => void;
}) {
  const queue = spec.queue ?? {};
  const put = (part: Partial<Queue>) => set({ queue: { ...queue, ...part } });
  return (
    <>
      <Form.Item
        label="Broker"
        extra="An endpoint whose address is as in amqp://broker.example:5672 (AMQP 1.0)."
      >
        <BrokerPick
          environment={environment}
          value={queue.endpoint}
          onChange={(endpoint) => put({ endpoint })}
        />
      </Form.Item>
      <Form.Item
        label="Takes from"
        extra="A message is accepted once it is kept. JSON or XML, of the fields the Read says."
      >
        <Input
          className="mono"
          aria-label="Queue"
          placeholder="loans.asked"
          value={queue.name}
          onChange={(e) => put({ name: e.target.value })}
        />
      </Form.Item>
      <Form.Item
        label="Answers to"
        extra="Where a message names no other (reply-to); with its correlation id, or else its id."
      >
        <Input
          className="mono"
          aria-label="Queue of answers"
          placeholder="no answers"
          value={queue.answers}
          onChange={(e) => put({ answers: e.target.value || undefined })}
        />
      </Form.Item>
      <BoundField
        label="At one time"
        most={2_000}
        unit="messages are worked on; the queue keeps the others"
        empty="200"
        value={spec.atOnce}
        onChange={(atOnce) => set({ atOnce })}
      />
      <BoundField
        label="A message has"
        most={20_000}
        unit="kilobytes at most, else it is a rejected record"
        empty="1000"
        value={spec.kilobytes}
        onChange={(kilobytes) => set({ kilobytes })}
      />
      <BoundField
        label="Given up after"
        most={1_000}
        unit="deliveries of a message nobody accepted: a rejected record"
        empty="10"
        value={queue.deliveries}
        onChange={(deliveries) => put({ deliveries })}
      />
      <BoundField
        label="Known for"
        most={720}
        unit="hours, in which the same message is not taken twice"
        empty="24"
        value={spec.keepHours}
        onChange={(keepHours) => set({ keepHours })}
      />
      <FieldsBeside
        label="Properties"
        one="property"
        example="tenant"
        all={spec.headers ?? []}
        onChange={(headers) => set({ headers })}
      />
    </>
  );
}
