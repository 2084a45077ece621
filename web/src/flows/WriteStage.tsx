import { Button, Select } from 'antd';
import { useState } from 'react';
import type { Column, Fill, FlowFile, WriteStage as Write } from '../api/flow';
import { allStages, outlineLines, withStage, withStageAfter } from '../api/outline';
import type { EverythingMade } from '../api/types';
import { NewDataset } from '../datasets/DatasetList';
import css from './flow.module.css';
import { NamedTexts } from './NamedTexts';
import type { PaneProps } from './panes';
import { RecordSheet } from './RecordSheet';
import { useDatasets } from './useChoices';

/** Where records go: what becomes a row, its columns and what fills them. */
export function WriteStage({
  stage,
  number,
  file,
  call,
  preview,
  onChange,
  onFile,
  onRemove,
  ...rest
}: PaneProps<Write>) {
  const [adding, setAdding] = useState(false);
  const datasets = useDatasets();
  const target = datasets.find((d) => d.name === stage.dataset);
  const isTable = target?.kind === 'table';
  const isQueue = target?.kind === 'queue';
  const failing = outlineLines(file).some((l) => l.kind === 'stage' && l.id === stage.id && l.failing);
  const missing = (stage.document ? [] : ((target?.columns ?? []) as Column[])).filter(
    (c) => !stage.columns.some((o) => o.name === c.name),
  );
  const last = allStages(file).filter((s) => s.verb === 'Write').length < 2;
  return (
    <div className={css.stage}>
      <div className={css.stageHead}>
        <h2>
          {number} · Write{failing && ' what failed'}
        </h2>
        <Select
          size="small"
          variant="filled"
          aria-label="Target dataset"
          showSearch
          placeholder="to which dataset"
          className="pick"
          popupMatchSelectWidth={false}
          value={stage.dataset}
          onChange={(name: string) => {
            if (name === '\u0000new') setAdding(true);
            else {
              const chosen = datasets.find((d) => d.name === name);
              const kind = chosen?.kind;
              const document = chosen?.queue?.form ?? (kind === 'json' || kind === 'xml' ? kind : undefined);
              const columns =
                stage.columns.length === 0 && !document
                  ? ((chosen?.columns ?? []) as Column[])
                  : stage.columns;
              onChange({
                ...stage,
                dataset: name,
                mode: kind === 'table' ? 'insert' : 'replace',
                document,
                properties: kind === 'queue' ? stage.properties : undefined,
                columns,
              });
            }
          }}
          options={[
            ...datasets
              .filter((d) => d.kind !== 'query' && d.kind !== 'folder')
              .map((d) => ({
                value: d.name,
                label: `${d.name} · ${d.kind === 'table' || d.kind === 'queue' ? d.kind : d.kind.toUpperCase()}`,
              })),
            { value: '\u0000new', label: 'add a file, table or queue …' },
          ]}
        />
        {isQueue ? (
          <>
            <span className="dim grow">a message each</span>
            <Button
              size="small"
              onClick={() =>
                onChange({ ...stage, properties: [...(stage.properties ?? []), { name: '', value: '' }] })
              }
            >
              Add a property
            </Button>
          </>
        ) : (
          <Select
            size="small"
            variant="filled"
            aria-label="Mode"
            value={stage.mode}
            className="field-xl"
            onChange={(mode) => onChange({ ...stage, mode })}
            options={
              isTable
                ? [
                    { value: 'insert', label: 'insert rows' },
                    { value: 'upsert', label: 'insert or update by key' },
                  ]
                : [
                    { value: 'replace', label: 'replace the file' },
                    { value: 'append', label: 'append to the file' },
                  ]
            }
          />
        )}
        {(!last || failing) && (
          <Button size="small" onClick={onRemove} className="at-end">
            Remove
          </Button>
        )}
        {stage.mode === 'upsert' && (
          <Select
            size="small"
            mode="multiple"
            placeholder="key columns"
            className="pick"
            value={stage.keys}
            onChange={(keys) => onChange({ ...stage, keys })}
            options={stage.columns.map((c) => ({ value: c.name }))}
          />
        )}
      </div>
      {isQueue && (
        <NamedTexts
          one="property"
          example="tenant"
          all={stage.properties ?? []}
          onChange={(properties) => onChange({ ...stage, properties })}
        />
      )}
      <RecordSheet
        {...rest}
        file={file}
        stage={stage}
        call={call}
        preview={preview}
        onChange={onChange}
        heading={stage.dataset ?? 'record'}
        missing={missing}
        everything={!failing}
        onRenamed={(next, from, to) => ({
          ...next,
          keys: to ? next.keys.map((k) => (k === from ? to : k)) : next.keys.filter((k) => k !== from),
        })}
        onTables={failing ? undefined : (made) => onFile(withTables(file, stage, made))}
      />
      {preview && call && stage.columns.length > 0 && preview.keptReplies === 0 && (
        <p className="dim pad-row flush">
          No reply is kept yet: call the service for the sample (Ctrl Enter) to see values here.
        </p>
      )}
      {adding && (
        <NewDataset
          kind={stage.document ?? 'csv'}
          onClose={() => setAdding(false)}
          onDone={(_, name) => {
            setAdding(false);
            onChange({ ...stage, dataset: name });
          }}
        />
      )}
    </div>
  );
}

/** Returns the file with the tables of a whole reply: the first takes the place of the stage, the others follow it. */
function withTables(file: FlowFile, stage: Write, made: EverythingMade): FlowFile {
  const taken = new Set(outlineLines(file).map((line) => line.id));
  const [first, ...others] = made.tables;
  const its = (table: EverythingMade['tables'][number]) => ({
    rows: table.made?.rowPath ?? '',
    columns: (table.made?.columns ?? []) as Column[],
    fills: (table.made?.fills ?? []) as Fill[],
    document: undefined,
    groups: undefined,
  });
  let next = withStage(file, stage.id, () => ({ ...stage, ...its(first) }));
  let after = stage.id;
  for (const table of others) {
    let id = `write_${table.name}`;
    for (let n = 2; taken.has(id); n++) id = `write_${table.name}${n}`;
    taken.add(id);
    next = withStageAfter(next, after, { verb: 'Write', id, mode: 'replace', keys: [], ...its(table) });
    after = id;
  }
  return next;
}
