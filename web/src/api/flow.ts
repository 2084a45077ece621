import type { components } from './schema';

type S = components['schemas'];
export type ValueFormat = S['ValueFormat'];
export type EmbeddedDocument = S['EmbeddedDocument'];
export type Each = S['Each'];
export type Fill = S['Fill'];
/** What a fill says of where its value comes from. */
export type FillSource = Pick<Fill, 'wire' | 'constant' | 'expression' | 'join'>;
export type Group = S['Group'];
export type FailureClass = S['FailureClass'];

/** The flow file as the server sends it: what a file may leave out is filled in (docs/flow-file.md). */
type With<Name extends keyof S, Filled extends keyof S[Name]> = S[Name] & Required<Pick<S[Name], Filled>>;
type Staged<Name extends keyof S, Filled extends keyof S[Name] = never> = Omit<With<Name, Filled>, 'lane'> & {
  lane?: Lane;
};
export type Column = With<'Column', 'label' | 'required'>;
export type Condition = With<'Condition', 'message'>;
export type Delivery = Omit<Required<S['Delivery']>, 'failedWhen' | 'memorySeconds' | 'doubtfulFaults'> & {
  failedWhen: Condition[];
  memorySeconds?: number;
  doubtfulFaults?: string[];
};
/** What makes a record, rows or a document by fills. */
export type MakesRecord = {
  rows?: string;
  columns: Column[];
  fills: Fill[];
  document?: 'json' | 'xml';
  groups?: Group[];
};
export type Rule = Omit<S['Rule'], 'columns' | 'stages'> & { columns?: Column[]; stages?: Stage[] };
export type Lane = { rules: Rule[] };
export type Branching = Omit<S['BranchWay'], 'stages'> & { stages: Stage[] };
/** How a Call asks for page after page. */
export type Paging = S['Paging'];
/** What callers send. */
export type InputShape = Omit<S['InputShape'], 'columns'> & { columns: Column[] };
export type ReadStage = Omit<Staged<'ReadStage'>, 'from' | 'input'> & {
  input?: InputShape;
  /** The operation that gives the records, where no dataset does. */
  from?: Omit<S['FromOperation'], 'call'> & { call: CallStage };
};
export type FilterStage = Staged<'FilterStage'>;
export type MapStage = Omit<Staged<'MapStage'>, keyof MakesRecord> & Partial<MakesRecord>;
export type LookUpStage = Staged<'LookUpStage'>;
export type CallStage = Omit<Staged<'CallStage', 'fills'>, 'delivery' | 'undo'> & {
  delivery: Delivery;
  undo?: Stage[];
};
export type BranchStage = Omit<Staged<'BranchStage'>, 'ways'> & { ways: Branching[] };
/** What becomes of the items of a Split: an item each, or a record made by fills. */
export type Gather = Omit<S['Gather'], keyof MakesRecord> &
  Partial<Pick<MakesRecord, 'columns' | 'fills' | 'groups'>>;
export type SplitStage = Omit<Staged<'SplitStage'>, 'stages' | 'gather'> & {
  stages: Stage[];
  gather?: Gather;
};
/** What the reply to a batch says of each of its records. */
export type Verdict = S['Verdict'];
export type BatchStage = Omit<Staged<'BatchStage'>, 'stages' | 'undo' | 'verdict'> & {
  stages: Stage[];
  undo?: Stage[];
  verdict?: Verdict;
};
export type WriteStage = Omit<Staged<'WriteStage', 'mode' | 'keys'>, keyof MakesRecord> & MakesRecord;
export type AnswerStage = Omit<Staged<'AnswerStage'>, keyof MakesRecord> & MakesRecord;
export type NoteStage = Staged<'NoteStage'>;
export type Stage =
  | ReadStage
  | FilterStage
  | MapStage
  | LookUpStage
  | CallStage
  | SplitStage
  | BatchStage
  | BranchStage
  | WriteStage
  | AnswerStage
  | NoteStage;
export type Verb = Stage['verb'];
/** A value taken of each record at its end. */
export type NamedValue = { name: string; of: string };
/** What is run once after the last record. */
export type AfterLast = Omit<S['AfterLast'], 'stages' | 'when' | 'sums'> & {
  stages: Stage[];
  when?: ('done' | 'empty' | 'failed' | 'cancelled')[];
  sums?: NamedValue[];
};
export type FlowFile = Omit<S['FlowFile'], 'before' | 'stages' | 'after' | 'lane'> & {
  before?: Stage[];
  stages: Stage[];
  after?: AfterLast;
  lane?: Lane;
};
export type Flow = Omit<S['Flow'], 'file'> & { file: FlowFile };

/** Returns the fills of a stage; none for those that have none. */
export function fillsOf(stage: Stage): Fill[] {
  return 'fills' in stage ? (stage.fills ?? []) : [];
}

/** Tells whether a record is made by fills at a stage, or by the rule of its lane. */
export function makesRecord(stage: Stage, rule: Rule | undefined): boolean {
  return rule
    ? rule.then === 'use' || rule.then === 'ask'
    : stage.verb === 'Write' || stage.verb === 'Answer' || (stage.verb === 'Map' && !stage.language);
}

/** Returns fills with one added or put in place of the fill of the same target. */
export function withFill(fills: Fill[], fill: Fill): Fill[] {
  return [...fills.filter((f) => f.target !== fill.target), fill];
}

/** Returns an id no fill has yet. */
export function freeId(fills: { id: string }[], prefix: string): string {
  const taken = new Set(fills.map((f) => f.id));
  let n = fills.length + 1;
  while (taken.has(prefix + n)) n++;
  return prefix + n;
}

const PATH = /^\$[\p{L}_][\p{L}\p{N}_.-]*(\/@?[\p{L}_][\p{L}\p{N}_.-]*)*$/u;

/**
 * Reads what was typed into a fill cell: a path is a wire, paths and texts with commas between are joined, quotes or
 * a bare
 * word are a constant, the rest is an expression.
 */
export function readFill(text: string): FillSource | null {
  const plain = text.trim();
  if (!plain) return null;
  if (PATH.test(plain)) return { wire: plain };
  const quoted = /^["“”](.*)["“”]$/s.exec(plain);
  if (quoted && !quoted[1].includes('"')) return { constant: quoted[1] };
  const parts = plain.split(/\s*,\s*/);
  if (
    parts.length > 1 &&
    parts.some((p) => PATH.test(p)) &&
    parts.every((p) => PATH.test(p) || /^"[^"]*"$/.test(p))
  )
    return { join: { parts } };
  if (/[$()=<>|]/.test(plain)) return { expression: plain };
  return { constant: plain };
}

/** What a number drawn from a series is written with. */
export const NEXT_OF = 'next of ';

/** Returns a fill as it is edited: what was typed. */
export function fillText(fill: Fill | undefined): string {
  if (!fill || fill.pick) return '';
  if (fill.constant !== undefined) return `"${fill.constant}"`;
  if (fill.number !== undefined) return NEXT_OF + fill.number;
  if (fill.join) return fill.join.parts.join(', ');
  return fill.wire ?? fill.copy ?? fill.expression ?? fill.repeat ?? fill.key ?? '';
}

/** Returns a fill as it is shown in its row. */
export function fillShown(fill: Fill): string {
  if (fill.repeat !== undefined) return `each ${fill.repeat}`;
  if (fill.copy !== undefined) return `all of ${fill.copy}`;
  if (fill.signature) return `signed over ${fill.signature.over.replace(/.*[/}]/, '')}`;
  if (fill.secret !== undefined) return `secret ${fill.secret}`;
  if (fill.nil) return 'nil';
  if (fill.number !== undefined) return fillText(fill);
  if (fill.key !== undefined) return `a key for each ${fill.key}`;
  if (fill.wire !== undefined) return shortPath(fill.wire);
  return fillText(fill);
}

/** A long path is told by its beginning and its end. */
function shortPath(path: string): string {
  const steps = path.split('/');
  return path.length > 30 && steps.length > 3 ? `${steps[0]}/…/${steps.slice(-1)[0]}` : path;
}

/** Returns what else a fill says, in a few words each. */
export function fillExtras(fill: Fill): string[] {
  const extras = [];
  if (fill.join && fill.join.by !== undefined) extras.push(`by “${fill.join.by}”`);
  if (fill.each?.where) extras.push(`where ${fill.each.where}`);
  if (fill.each?.order?.length)
    extras.push(`by ${fill.each.order.map((o) => o.by.split('/').pop()).join(', ')}`);
  if (fill.each?.groupBy?.length) extras.push(`grouped by ${fill.each.groupBy.join(', ')}`);
  if (fill.format) extras.push(formatLabel(fill.format));
  if (fill.lookUp) extras.push(`in ${fill.lookUp.table}`);
  if (fill.file) extras.push(`file in ${fill.file.folder}`);
  if (fill.whenEmpty)
    extras.push(
      fill.whenEmpty.use === 'default'
        ? `else “${fill.whenEmpty.value ?? ''}”`
        : { leaveOut: 'or left out', nil: 'or nil', send: 'or empty', reject: 'or rejected' }[
            fill.whenEmpty.use
          ],
    );
  if (fill.when) extras.push(`when ${fill.when}`);
  return extras;
}

/** Returns what a fill keeps when only its source changes. */
export function fillKept(fill: Fill | undefined): Partial<Fill> {
  return fill
    ? {
        format: fill.format,
        lookUp: fill.lookUp,
        file: fill.file,
        whenEmpty: fill.whenEmpty,
        when: fill.when,
        remark: fill.remark,
      }
    : {};
}

/** Returns the paths a fill uses. */
export function fillPaths(fill: Fill): string[] {
  const said = fill.constant !== undefined ? '' : fillText(fill);
  return `${said} ${fill.when ?? ''}`.match(/\$[\p{L}\p{N}_./@-]+/gu) ?? [];
}

/** Returns a format in a few words, all its steps. */
export function formatLabel(format: ValueFormat | undefined): string {
  if (!format) return '';
  const then = format.then ? `, ${formatLabel(format.then)}` : '';
  return stepLabel(format) + then;
}

function stepLabel(step: ValueFormat): string {
  switch (step.kind) {
    case 'number':
      return step.decimals !== undefined
        ? `${step.decimals} decimals`
        : step.read === ','
          ? 'decimal comma'
          : step.write === ','
            ? 'with a comma'
            : `decimal ${step.read ?? '.'}`;
    case 'date':
      return [step.read, step.write].filter(Boolean).join(' → ') || 'date';
    case 'boolean':
      return step.write ? `as ${step.write}` : `${(step.yes ?? []).slice(0, 2).join('/')} = true`;
    case 'case':
      return { upper: 'capitals', lower: 'small letters', first: 'first letter' }[step.write ?? ''] ?? 'case';
    case 'keep':
      return `only ${(step.allowed ?? '').slice(0, 14)}`;
    case 'cut':
      return `cut to ${step.length}${step.unit === 'bytes' ? ' bytes' : ''}`;
    case 'pad':
      return `fill to ${step.length}`;
    default:
      return step.kind ?? '';
  }
}
