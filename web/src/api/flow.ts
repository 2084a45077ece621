import type { components } from './schema';
import type { FlowProblem, Run } from './types';

/** The flow file as the editor works on it; docs/flow-file.md describes it. */
export type ValueFormat = components['schemas']['ValueFormat'];
export type Column = {
  name: string;
  label: string;
  type: components['schemas']['ScalarType'];
  format?: ValueFormat;
  required: boolean;
};
export type Fill = {
  id: string;
  target: string;
  wire?: string;
  constant?: string;
  expression?: string;
  repeat?: string;
  as?: string;
  format?: ValueFormat;
  pick?: boolean;
};
export type Condition = { id: string; expression: string; message: string };
export type Delivery = {
  effect: 'reads' | 'changes';
  atOnce: number;
  retries: number;
  backOffMillis: number;
  resendChanges: boolean;
  strict: boolean;
  keep: 'none' | 'failures' | 'all';
  connectMillis: number;
  firstByteMillis: number;
  wholeMillis: number;
  failedWhen: Condition[];
};
export type ReadStage = { verb: 'Read'; id: string; dataset?: string; as: string; key?: string };
export type CallStage = {
  verb: 'Call';
  id: string;
  contract?: string;
  service?: string;
  port?: string;
  operation?: string;
  endpoint?: string;
  as: string;
  fills: Fill[];
  delivery: Delivery;
};
export type WriteStage = {
  verb: 'Write';
  id: string;
  dataset?: string;
  mode: 'replace' | 'append' | 'insert' | 'upsert';
  keys: string[];
  rows?: string;
  columns: Column[];
  fills: Fill[];
};
export type Stage = ReadStage | CallStage | WriteStage;
export type FlowFile = { format: 1; name: string; stages: Stage[] };
export type Flow = {
  id: number;
  revision: number;
  file: FlowFile;
  problems: FlowProblem[];
  records: number;
  lastRun?: Run;
};

/** Returns the file with one stage changed. */
export function withStage(file: FlowFile, id: string, change: (stage: Stage) => Stage): FlowFile {
  return { ...file, stages: file.stages.map((s) => (s.id === id ? change(s) : s)) };
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

/** Reads what was typed into a fill cell: a path is a wire, quotes or a bare word a constant, the rest an expression. */
export function readFill(text: string): Pick<Fill, 'wire' | 'constant' | 'expression'> | null {
  const plain = text.trim();
  if (!plain) return null;
  if (PATH.test(plain)) return { wire: plain };
  const quoted = /^["“”](.*)["“”]$/s.exec(plain);
  if (quoted && !quoted[1].includes('"')) return { constant: quoted[1] };
  if (/[$()=<>|]/.test(plain)) return { expression: plain };
  return { constant: plain };
}

/** Returns a fill as it is shown and edited. */
export function fillText(fill: Fill | undefined): string {
  if (!fill) return '';
  if (fill.wire !== undefined) return fill.wire;
  if (fill.constant !== undefined) return `"${fill.constant}"`;
  if (fill.repeat !== undefined) return `for each ${fill.repeat}`;
  if (fill.pick) return '';
  return fill.expression ?? '';
}

/** Returns a format in a few words. */
export function formatLabel(format: ValueFormat | undefined): string {
  if (!format) return '';
  if (format.kind === 'number') return format.read === ',' ? 'decimal comma' : `decimal ${format.read ?? '.'}`;
  if (format.kind === 'date') return [format.read, format.write].filter(Boolean).join(' → ');
  if (format.kind === 'boolean') return `${(format.yes ?? []).slice(0, 2).join('/')} = true`;
  if (format.kind === 'cut') return `cut to ${format.length}`;
  return format.kind ?? '';
}
