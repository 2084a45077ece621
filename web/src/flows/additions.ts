import { allStages, type FlowFile, type Stage, type WriteStage } from '../api/flow';
import type { Addition } from './Outline';

/** Returns the file with a stage added where it belongs, and the new stage's id. */
export function withAddition(file: FlowFile, what: Addition): { file: FlowFile; id: string } {
  const taken = new Set(allStages(file).map((s) => s.id));
  const free = (base: string) => {
    let id = base;
    for (let n = 2; taken.has(id); n++) id = `${base}${n}`;
    return id;
  };
  const callAt = file.stages.findIndex((s) => s.verb === 'Call');
  if (what === 'rejects') {
    const id = free('rejects');
    return { id, file: { ...file, stages: file.stages.map((s) => (s.verb === 'Call' ? { ...s, rejects: rejects(id, file) } : s)) } };
  }
  if (what === 'write') {
    const id = free('write');
    const write: WriteStage = { verb: 'Write', id, mode: 'replace', keys: [], rows: '', columns: [], fills: [] };
    return { id, file: { ...file, stages: [...file.stages, write] } };
  }
  const id = free('map');
  const variables = new Set(allStages(file).map((s) => ('as' in s ? s.as : '')));
  let as = what === 'before' ? 'message' : 'result';
  for (let n = 2; variables.has(as); n++) as = `${what === 'before' ? 'message' : 'result'}${n}`;
  const call = file.stages[callAt];
  const read = file.stages[0];
  const input = what === 'after' && call?.verb === 'Call' ? call.as : read.verb === 'Read' ? read.as : undefined;
  const map: Stage = { verb: 'Map', id, language: 'xquery', text: '', input, as };
  let at = callAt;
  if (what === 'after') for (at = callAt + 1; file.stages[at]?.verb === 'Map'; ) at++;
  return { id, file: { ...file, stages: [...file.stages.slice(0, at), map, ...file.stages.slice(at)] } };
}

/** A file of failed records begins with the record's key and everything said about why it failed. */
function rejects(id: string, file: FlowFile): WriteStage {
  const read = file.stages[0];
  const key = read.verb === 'Read' && read.key ? read.key : '$run/record';
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
  return {
    verb: 'Write',
    id,
    mode: 'replace',
    keys: [],
    rows: '',
    columns: wires.map(([name]) => ({ name, label: name, type: 'string', required: false })),
    fills: wires.map(([target, wire], i) => ({ id: `r${i + 1}`, target, wire })),
  };
}
