import type { ReactNode } from 'react';
import type {
  CallStage as Call,
  Column,
  FlowFile,
  MapStage as Mapping,
  Rule,
  Stage,
  Verb,
  WriteStage as Writing,
} from '../api/flow';
import { freeStageId, freeVariable } from '../api/outline';
import { DELIVERY } from './delivery';

/** What the sample pane can show at a stage. */
export type Tab = 'In' | 'Sends' | 'Makes' | 'Reply' | 'Rows' | 'Way';

/** What the outline and the sample pane know of a verb. Its pane is named in {@link PANES}. */
export type VerbLook<S extends Stage> = {
  /** What it does, in a sentence: shown where a stage is added. */
  does: string;
  /** What it is about, behind the verb. */
  object: (stage: S) => string;
  /** What else its line says. */
  detail: (stage: S) => ReactNode;
  /** How many come out for one that goes in. */
  cardinality: (stage: S) => string;
  tabs: (stage: S) => Tab[];
  /** A new one; null where there is one only. */
  make: ((file: FlowFile, before: string | undefined) => S) | null;
};

const columns = (count: number) => `${count} ${count === 1 ? 'column' : 'columns'}`;
const as = (name: string) => (
  <>
    as <span className="mono">${name}</span>
  </>
);

/** What a new call does when it fails: what passes by itself is tried again. */
export function tryAgain(id: string): Rule {
  return { id, on: ['connection', 'timeout', 'http-status'], then: 'again', times: 2, backOffMillis: 200 };
}

/** The verbs, in the order they are offered: the one place that lists them. */
export const VERBS: { [V in Verb]: VerbLook<Extract<Stage, { verb: V }>> } = {
  Read: {
    does: 'Takes records from a dataset or an operation, one after the other',
    object: (s) =>
      s.input
        ? 'what callers send'
        : (s.from?.call.operation ?? s.dataset ?? (s.from ? 'no operation yet' : 'no dataset yet')),
    detail: (s) => (
      <>
        {as(s.as)}
        {s.groupBy?.length ? ` by ${s.groupBy.join(', ')}` : ''}
        {s.inKeyOrder && ', in order of the key'}
      </>
    ),
    cardinality: (s) => (s.groupBy?.length ? 'N → 1' : ''),
    tabs: () => ['In', 'Way'],
    make: null,
  },
  Filter: {
    does: 'Goes on with records for which a condition holds; leaves the others out',
    object: (s) => s.name || s.when || 'no condition yet',
    detail: (s) => (s.name ? <span className="mono">{s.when}</span> : 'others are left out'),
    cardinality: () => '1 → 0..1',
    tabs: () => ['In', 'Way'],
    make: (file) => ({ verb: 'Filter', id: freeStageId(file, 'filter'), when: '' }),
  },
  Map: {
    does: 'Makes a record by fills, or a whole message by XQuery or XSLT',
    object: (s) => `$${s.as}`,
    detail: (s) =>
      s.language === undefined ? columns(s.columns?.length ?? 0) : s.language === 'xslt' ? 'XSLT' : 'XQuery',
    cardinality: () => '1 → 1',
    tabs: () => ['In', 'Makes', 'Way'],
    make: (file) =>
      ({
        verb: 'Map',
        id: freeStageId(file, 'map'),
        as: freeVariable(file, 'made'),
        columns: [],
        fills: [],
        rows: '',
      }) as Mapping,
  },
  'Look up': {
    does: 'Finds a row of a dataset, or an entry of a code table, by a key',
    object: (s) => s.codes ?? s.dataset ?? 'nowhere yet',
    detail: (s) => (
      <>
        {as(s.as)}
        {s.key && (
          <>
            {' '}
            by <span className="mono">{s.key}</span>
          </>
        )}
      </>
    ),
    cardinality: () => '1 → 1',
    tabs: () => ['In', 'Way'],
    make: (file) => ({ verb: 'Look up', id: freeStageId(file, 'lookup'), as: freeVariable(file, 'row') }),
  },
  Call: {
    does: 'Calls an operation of a contract with a message made by fills',
    object: (s) => s.operation ?? 'no operation yet',
    detail: (s) => (
      <>
        {s.contract && `${s.contract} · `}
        {as(s.as)}
      </>
    ),
    cardinality: () => '1 → 1',
    tabs: () => ['In', 'Sends', 'Reply', 'Way'],
    make: (file) => {
      const id = freeStageId(file, 'call');
      return {
        verb: 'Call',
        id,
        as: freeVariable(file, 'reply'),
        fills: [],
        delivery: DELIVERY,
        lane: { rules: [tryAgain(freeStageId(file, `${id}-again`))] },
      } as Call;
    },
  },
  Split: {
    does: 'Runs stages for each item of a repeated field, several at once, and gathers what they made',
    object: (s) => (s.over ? `by ${s.item}` : 'no items yet'),
    detail: (s) => (
      <>
        <span className="mono">{s.over}</span>
        {s.gather && <> {as(s.gather.as)}</>}
      </>
    ),
    cardinality: (s) => (s.gather ? '1 → N → 1' : '1 → N'),
    tabs: () => ['In', 'Way'],
    make: (file) => ({
      verb: 'Split',
      id: freeStageId(file, 'split'),
      item: freeVariable(file, 'item'),
      atOnce: 4,
      stages: [],
      gather: { as: freeVariable(file, 'items'), whenSomeFail: 'reject' },
    }),
  },
  Batch: {
    does: 'Lets several records go through stages together; each goes on with what the reply says of it',
    object: (s) => `up to ${s.most ?? 100}${s.by ? ' of a kind' : ''}`,
    detail: (s) => (
      <>
        {s.by && (
          <>
            by <span className="mono">{s.by}</span>{' '}
          </>
        )}
        {s.verdict ? as(s.verdict.as ?? '') : 'no verdict'}
      </>
    ),
    cardinality: () => 'N → 1 → N',
    tabs: () => ['In', 'Way'],
    make: (file) => ({
      verb: 'Batch',
      id: freeStageId(file, 'batch'),
      batch: freeVariable(file, 'batch'),
      most: 100,
      stages: [],
      verdict: { as: freeVariable(file, 'verdict'), silent: 'in-doubt' },
    }),
  },
  Branch: {
    does: 'Goes one of several ways: the first whose condition holds',
    object: (s) => `${s.ways.length} ${s.ways.length === 1 ? 'way' : 'ways'}`,
    detail: (s) => s.ways.map((w) => w.label || w.when || 'otherwise').join(' · '),
    cardinality: () => '1 → 1',
    tabs: () => ['In', 'Way'],
    make: (file) => {
      const id = freeStageId(file, 'branch');
      return {
        verb: 'Branch',
        id,
        ways: [
          { id: `${id}-a`, when: '', stages: [] },
          { id: `${id}-else`, stages: [] },
        ],
      };
    },
  },
  Write: {
    does: 'Writes rows or a document to a file or table',
    object: (s) => s.dataset ?? 'nowhere yet',
    detail: (s) =>
      s.document
        ? `${s.document.toUpperCase()} document · ${s.mode}`
        : `${columns(s.columns.length)} · ${s.mode}`,
    cardinality: (s) => (s.rows ? '1 → N' : '1 → 1'),
    tabs: () => ['In', 'Reply', 'Rows', 'Way'],
    make: (file) =>
      ({
        verb: 'Write',
        id: freeStageId(file, 'write'),
        mode: 'replace',
        keys: [],
        rows: '',
        columns: [],
        fills: [],
      }) as Writing,
  },
  Answer: {
    does: 'Says what a caller of the flow gets',
    object: (s) => s.status || '200',
    detail: (s) => `${columns(s.columns.length)} · ${(s.document ?? 'json').toUpperCase()}`,
    cardinality: () => '1 → 1',
    tabs: () => ['In', 'Rows', 'Way'],
    make: (file) => ({
      verb: 'Answer',
      id: freeStageId(file, 'answer'),
      rows: '',
      columns: [],
      fills: [],
      document: 'json',
    }),
  },
  Note: {
    does: 'Words for the next person',
    object: (s) => (s.text ?? '').split('\n')[0].slice(0, 60) || 'empty',
    detail: () => '',
    cardinality: () => '',
    tabs: () => ['In', 'Way'],
    make: (file) => ({ verb: 'Note', id: freeStageId(file, 'note'), text: '' }),
  },
};

/** Returns the look of a stage's verb. */
export function lookOf<S extends Stage>(stage: S): VerbLook<S> {
  return VERBS[stage.verb] as unknown as VerbLook<S>;
}

/** A file of rejected records begins with the record's key and everything said about why it failed. */
export function rejectedRecords(file: FlowFile): Rule {
  const read = file.stages.find((s) => s.verb === 'Read');
  const key = read?.verb === 'Read' && read.key ? read.key : '$run/record';
  const wires: [string, string][] = [
    [key.split('/').pop() ?? 'record', key],
    ['class', '$failure/class'],
    ['cause', '$failure/cause'],
    ['message', '$failure/message'],
    ['field', '$failure/field'],
    ['value', '$failure/value'],
    ['fault_code', '$fault/code'],
    ['fault_text', '$fault/reason'],
  ];
  const id = freeStageId(file, 'rejects');
  const made: Column[] = wires.map(([name]) => ({ name, label: name, type: 'string', required: false }));
  return {
    id: freeStageId(file, `${id}-rule`),
    then: 'reject',
    stages: [
      {
        verb: 'Write',
        id,
        mode: 'replace',
        keys: [],
        rows: '',
        columns: made,
        fills: wires.map(([target, wire], i) => ({ id: `r${i + 1}`, target, wire })),
        leaveUnfit: true,
      },
    ],
  };
}
