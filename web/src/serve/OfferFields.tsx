import { Table } from 'antd';

/** A schema, as far as it is shown. */
export type Schema = {
  type?: string;
  format?: string;
  title?: string;
  properties?: Record<string, Schema>;
  items?: Schema;
  required?: string[];
};
type Parameter = { name: string; in: string; required?: boolean; schema: Schema; description?: string };
type Operation = {
  parameters?: Parameter[];
  requestBody?: { content: Record<string, { example?: unknown }> };
  responses: Record<string, { description: string }>;
};
/** An OpenAPI document, as far as it is shown. */
export type OpenApi = {
  paths: Record<string, { get?: Operation; post?: Operation }>;
  components: { schemas: Record<string, Schema> };
};

type Field = { name: string; type: string; required: boolean; where: string };

/** What is sent and what comes back, field by field, and the document that says it to programs. */
export function OfferFields({
  document,
  path,
  trigger,
}: {
  document: OpenApi;
  path: string;
  trigger: number;
}) {
  const post = Object.values(document.paths)[0]?.post;
  const beside = (post?.parameters ?? [])
    .filter((p) => p.in === 'path' || !OWN.includes(p.name))
    .map((p) => ({ name: p.name, type: typeOf(p.schema), required: p.required ?? false, where: p.in }));
  const sent = [...beside, ...fieldsOf(document.components.schemas.Input, '', 'body')];
  const answer = fieldsOf(document.components.schemas.Answer, '', '');
  return (
    <div className="stack">
      <p className="flush">
        <a href={`/api/triggers/${trigger}/openapi`} target="_blank" rel="noreferrer">
          OpenAPI document
        </a>{' '}
        <span className="dim">
          with the JSON Schemas of both; callers get it at{' '}
          <span className="mono">/serve/{path}/openapi.json</span>
        </span>
      </p>
      <Fields title="What is sent" fields={sent} />
      <Fields title="What comes back" fields={answer} />
      <Table
        size="small"
        rowKey="status"
        pagination={false}
        dataSource={Object.entries(post?.responses ?? {}).map(([status, r]) => ({ status, ...r }))}
        columns={[
          { title: 'Status', width: 70, dataIndex: 'status' },
          { title: 'Means', dataIndex: 'description' },
        ]}
      />
    </div>
  );
}

const OWN = ['Idempotency-Key', 'Prefer'];

function Fields({ title, fields }: { title: string; fields: Field[] }) {
  return (
    <Table<Field>
      size="small"
      rowKey={(f) => `${f.where} ${f.name}`}
      dataSource={fields}
      pagination={{ pageSize: 12, hideOnSinglePage: true }}
      locale={{ emptyText: 'Nothing.' }}
      columns={[
        {
          title,
          render: (_, f) => (
            <span className="mono">
              {f.name}
              {f.required && <span className="bad"> *</span>}
            </span>
          ),
        },
        { title: 'Type', width: 130, render: (_, f) => <span className="dim">{f.type}</span> },
        ...(fields.some((f) => f.where !== 'body' && f.where)
          ? [
              {
                title: 'In',
                width: 70,
                render: (_: unknown, f: Field) => <span className="dim">{f.where}</span>,
              },
            ]
          : []),
      ]}
    />
  );
}

function typeOf(schema: Schema): string {
  return schema.format ?? schema.type ?? '';
}

function fieldsOf(schema: Schema | undefined, above: string, where: string): Field[] {
  return Object.entries(schema?.properties ?? {}).flatMap(([name, of]) => {
    const list = of.type === 'array';
    const one = list ? (of.items ?? {}) : of;
    const place = `${above}${name}${list ? '[]' : ''}`;
    const required = schema?.required?.includes(name) ?? false;
    return one.properties
      ? fieldsOf(one, `${place}.`, where)
      : [{ name: place, type: typeOf(one), required, where }];
  });
}
