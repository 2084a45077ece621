import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Button, Form, Input, Select } from 'antd';
import { Link } from 'react-router';
import { api } from '../api/client';
import type { ReadStage as Read } from '../api/flow';
import type { Watermark } from '../api/types';
import { Trouble, When } from '../shared/parts';
import { useAsked } from './asked';
import { ExpressionField } from './ExpressionField';
import { repeatedPaths } from './repeatedPaths';
import { useSheet } from './useChoices';
import { useTry } from './useStageTools';

type From = NonNullable<Read['from']>;

/** Which rows of an operation's reply are the records, and how far they were read. */
export function OperationSource({
  stage,
  from,
  onChange,
}: {
  stage: Read;
  from: From;
  onChange: (from: From) => void;
}) {
  const client = useQueryClient();
  const onTry = useTry();
  const { flowId, environment } = useAsked();
  const reply = useSheet(from.call, 'reply');
  const key = ['watermarks', flowId];
  const marks = useQuery({
    queryKey: key,
    queryFn: () => api.get<Watermark[]>(`/flows/${flowId}/watermarks`),
    enabled: !!from.watermark,
  });
  const mark = marks.data?.find((m) => m.environment === environment);
  const move = async (value?: string) =>
    client.setQueryData(
      key,
      await api.put<Watermark[]>(`/flows/${flowId}/watermarks`, { environment, value }),
    );
  return (
    <>
      <Form.Item
        label="Operation"
        extra="Its request is filled in the line below this one, and called there for samples."
      >
        <Link to={`?stage=${from.call.id}`}>
          {from.call.operation ? `${from.call.operation} of ${from.call.contract}` : 'pick one'}
        </Link>
      </Form.Item>
      <Form.Item label="A record is each" extra="The element of the reply that becomes a record.">
        <Select
          showSearch
          aria-label="Rows of the reply"
          className="mono field-3xl"
          placeholder="pick the element that repeats"
          value={from.rows || undefined}
          options={repeatedPaths(reply?.rows ?? [], from.call.as).map((value) => ({ value }))}
          onChange={(rows: string) => onChange({ ...from, rows })}
        />
      </Form.Item>
      <Form.Item
        label="Goes on from"
        extra={
          <>
            What says how far one has come with a record, as its time of change. The greatest of those that
            have an end is <span className="mono">$watermark</span> for the request of the next run.
          </>
        }
      >
        <ExpressionField
          label="Watermark"
          value={from.watermark}
          placeholder={`everything is read each time; or $${stage.as}/changed`}
          onTry={onTry}
          onChange={(watermark) => onChange({ ...from, watermark })}
        />
      </Form.Item>
      {from.watermark && (
        <Form.Item
          label="The first time from"
          extra={
            mark ? (
              <span className="row">
                <span>
                  In {environment} it was read up to <b className="mono">{mark.value}</b>,{' '}
                  <When at={mark.movedAt} />
                  {mark.run && (
                    <>
                      {' '}
                      by <Link to={`/runs/${mark.run}`}>run {mark.run}</Link>
                    </>
                  )}
                </span>
                <Button size="small" onClick={() => void move()}>
                  Begin again
                </Button>
              </span>
            ) : (
              `In ${environment} it was not read yet.`
            )
          }
        >
          <Input
            aria-label="Since"
            className="mono field-xl"
            placeholder="nothing"
            key={from.since}
            defaultValue={from.since}
            onBlur={(e) =>
              e.target.value !== (from.since ?? '') &&
              onChange({ ...from, since: e.target.value || undefined })
            }
          />
        </Form.Item>
      )}
      <Trouble error={marks.error} />
    </>
  );
}
