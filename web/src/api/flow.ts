import type { components } from './schema';
import type { FlowProblem, Run } from './types';

/** The flow file as the editor works on it; docs/flow-file.md describes it. */
export type ValueFormat = components['schemas']['ValueFormat'];
export type EmbeddedDocument = components['schemas']['EmbeddedDocument'];
export type Column = {
  name: string;
  label: string;
  type: components['schemas']['ScalarType'];
  format?: ValueFormat;
  required: boolean;
};
export type Each = { where?: string; order?: { by: string; descending?: boolean }[]; groupBy?: string[] };
export type Fill = {
  id: string;
  target: string;
  wire?: string;
  constant?: string;
  expression?: string;
  join?: { parts: string[]; by?: string };
  copy?: string;
  secret?: string;
  nil?: true;
  key?: string;
  repeat?: string;
  as?: string;
  each?: Each;
  format?: ValueFormat;
  lookUp?: { table: string; on?: string };
  /** A file of a folder: sent where the fill is of a request, written where it is of a record. */
  file?: { folder: string; name?: string };
  whenEmpty?: { use: 'default' | 'leaveOut' | 'nil' | 'send' | 'reject'; value?: string };
  when?: string;
  pick?: boolean;
  remark?: string;
};
/** What a fill says of where its value comes from. */
export type FillSource = Pick<Fill, 'wire' | 'constant' | 'expression' | 'join'>;
export type Condition = { id: string; expression: string; message: string };
export type FailureClass = components['schemas']['FailureClass'];
export type Delivery = {
  effect: 'reads' | 'changes';
  atOnce: number;
  strict: boolean;
  keep: 'none' | 'failures' | 'all';
  connectMillis: number;
  firstByteMillis: number;
  wholeMillis: number;
  failedWhen: Condition[];
  /** How long the same request is answered from memory; 0 for the whole run. */
  memorySeconds?: number;
};
/** What makes a record, rows or a document by fills. */
export type MakesRecord = { rows?: string; columns: Column[]; fills: Fill[]; document?: 'json' | 'xml'; groups?: Group[] };
export type Rule = {
  id: string;
  on?: FailureClass[];
  when?: string;
  then: 'again' | 'use' | 'go-on' | 'reject' | 'stop';
  times?: number;
  backOffMillis?: number;
  columns?: Column[];
  fills?: Fill[];
  stages?: Stage[];
};
export type Lane = { rules: Rule[] };
type Base = { id: string; lane?: Lane };
export type ReadStage = Base & { verb: 'Read'; dataset?: string; as: string; key?: string; groupBy?: string[]; inKeyOrder?: boolean };
export type FilterStage = Base & { verb: 'Filter'; name?: string; when?: string };
export type MapStage = Base & Partial<MakesRecord> & { verb: 'Map'; language?: 'xslt' | 'xquery'; text?: string; input?: string; as: string };
export type LookUpStage = Base & { verb: 'Look up'; dataset?: string; column?: string; key?: string; as: string; none?: 'reject' | 'empty'; many?: 'reject' | 'first' };
export type CallStage = Base & {
  verb: 'Call';
  contract?: string;
  service?: string;
  port?: string;
  operation?: string;
  endpoint?: string;
  as: string;
  fills: Fill[];
  documents?: EmbeddedDocument[];
  delivery: Delivery;
};
export type Branching = { id: string; label?: string; when?: string; stages: Stage[] };
export type BranchStage = Base & { verb: 'Branch'; ways: Branching[] };
export type Group = { name: string; repeat: string; as?: string };
export type WriteStage = Base & MakesRecord & {
  verb: 'Write';
  dataset?: string;
  mode: 'replace' | 'append' | 'insert' | 'upsert';
  keys: string[];
  leaveUnfit?: boolean;
};
export type AnswerStage = Base & MakesRecord & { verb: 'Answer'; status?: string };
export type NoteStage = Base & { verb: 'Note'; text?: string };
export type Stage = ReadStage | FilterStage | MapStage | LookUpStage | CallStage | BranchStage | WriteStage | AnswerStage | NoteStage;
export type Verb = Stage['verb'];
export type FlowFile = { format: 2; name: string; stages: Stage[]; lane?: Lane };
export type Flow = {
  id: number;
  revision: number;
  file: FlowFile;
  problems: FlowProblem[];
  records: number;
  lastRun?: Run;
};

/** Returns the fills of a stage; none for those that have none. */
export function fillsOf(stage: Stage): Fill[] {
  return 'fills' in stage ? (stage.fills ?? []) : [];
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
 * Reads what was typed into a fill cell: a path is a wire, paths and texts with commas between are joined, quotes or a bare
 * word are a constant, the rest is an expression.
 */
export function readFill(text: string): FillSource | null {
  const plain = text.trim();
  if (!plain) return null;
  if (PATH.test(plain)) return { wire: plain };
  const quoted = /^["“”](.*)["“”]$/s.exec(plain);
  if (quoted && !quoted[1].includes('"')) return { constant: quoted[1] };
  const parts = plain.split(/\s*,\s*/);
  if (parts.length > 1 && parts.some((p) => PATH.test(p)) && parts.every((p) => PATH.test(p) || /^"[^"]*"$/.test(p))) return { join: { parts } };
  if (/[$()=<>|]/.test(plain)) return { expression: plain };
  return { constant: plain };
}

/** Returns a fill as it is edited: what was typed. */
export function fillText(fill: Fill | undefined): string {
  if (!fill || fill.pick) return '';
  if (fill.constant !== undefined) return `"${fill.constant}"`;
  if (fill.join) return fill.join.parts.join(', ');
  return fill.wire ?? fill.copy ?? fill.expression ?? fill.repeat ?? fill.key ?? '';
}

/** Returns a fill as it is shown in its row. */
export function fillShown(fill: Fill): string {
  if (fill.repeat !== undefined) return `each ${fill.repeat}`;
  if (fill.copy !== undefined) return `all of ${fill.copy}`;
  if (fill.secret !== undefined) return `secret ${fill.secret}`;
  if (fill.nil) return 'nil';
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
  if (fill.each?.order?.length) extras.push(`by ${fill.each.order.map((o) => o.by.split('/').pop()).join(', ')}`);
  if (fill.each?.groupBy?.length) extras.push(`grouped by ${fill.each.groupBy.join(', ')}`);
  if (fill.format) extras.push(formatLabel(fill.format));
  if (fill.lookUp) extras.push(`in ${fill.lookUp.table}`);
  if (fill.file) extras.push(`file in ${fill.file.folder}`);
  if (fill.whenEmpty) extras.push(fill.whenEmpty.use === 'default' ? `else “${fill.whenEmpty.value ?? ''}”` : { leaveOut: 'or left out', nil: 'or nil', send: 'or empty', reject: 'or rejected' }[fill.whenEmpty.use]);
  if (fill.when) extras.push(`when ${fill.when}`);
  return extras;
}

/** Returns what a fill keeps when only its source changes. */
export function fillKept(fill: Fill | undefined): Partial<Fill> {
  return fill ? { format: fill.format, lookUp: fill.lookUp, file: fill.file, whenEmpty: fill.whenEmpty, when: fill.when, remark: fill.remark } : {};
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
    case 'number': return step.decimals !== undefined ? `${step.decimals} decimals` : step.read === ',' ? 'decimal comma' : step.write === ',' ? 'with a comma' : `decimal ${step.read ?? '.'}`;
    case 'date': return [step.read, step.write].filter(Boolean).join(' → ') || 'date';
    case 'boolean': return step.write ? `as ${step.write}` : `${(step.yes ?? []).slice(0, 2).join('/')} = true`;
    case 'case': return { upper: 'capitals', lower: 'small letters', first: 'first letter' }[step.write ?? ''] ?? 'case';
    case 'keep': return `only ${(step.allowed ?? '').slice(0, 14)}`;
    case 'cut': return `cut to ${step.length}${step.unit === 'bytes' ? ' bytes' : ''}`;
    case 'pad': return `fill to ${step.length}`;
    default: return step.kind ?? '';
  }
}
