import type { Branching, FlowFile, Lane, Rule, SplitStage, Stage } from './flow';

/**
 * Where a list of stages stands: in the flow itself, on a way of a Branch, among what a Split does for each item, or in
 * a rule of a failure lane.
 */
export type BlockId = string;

/** The flow's own list of stages. */
export const MAIN: BlockId = '';

/** What the id of the block ends with that holds the call which gives a Read its records. */
const SOURCE = '/source';

/** Tells whether a block holds only the call that gives a Read its records. */
export function isSource(block: BlockId): boolean {
  return block.endsWith(SOURCE);
}

/** The parts of a run. */
export type Part = 'before' | 'each' | 'after';

const PARTS: Record<Part, string> = {
  before: 'before the first record',
  each: 'for each record',
  after: 'after the last record',
};

/** A line of the outline. */
export type Line =
  | {
      kind: 'stage';
      id: string;
      stage: Stage;
      depth: number;
      number: string;
      block: BlockId;
      failing: boolean;
    }
  | {
      kind: 'way';
      id: string;
      way: Branching;
      branch: string;
      place: number;
      depth: number;
      failing: boolean;
      /** What it is where no stages stand: what a Split gathers, the verdict of a Batch. */
      end?: 'gather' | 'verdict';
      /** Which part of the run begins here: what is run once, or for each record. */
      part?: Part;
    }
  | { kind: 'rule'; id: string; rule: Rule; owner?: Stage; depth: number };

function undoOf(stage: { id: string; undo?: Stage[] }): Branching[] {
  return stage.undo?.length ? [{ id: `${stage.id}/undo`, label: 'to take it back', stages: stage.undo }] : [];
}

/** Returns the blocks a stage holds: the ways of a Branch, what a Split does for each item, what reverses a Call. */
function blocksOf(stage: Stage): Branching[] {
  if (stage.verb === 'Branch') return stage.ways;
  if (stage.verb === 'Call') return undoOf(stage);
  if (stage.verb === 'Read' && stage.from)
    return [{ id: `${stage.id}${SOURCE}`, label: 'from an operation', stages: [stage.from.call] }];
  if (stage.verb === 'Batch')
    return [
      { id: `${stage.id}/records`, label: `together as $${stage.batch ?? 'batch'}`, stages: stage.stages },
      ...undoOf(stage),
    ];
  if (stage.verb !== 'Split') return [];
  const label = `for each $${stage.item ?? 'item'}`;
  return [{ id: `${stage.id}/items`, label, stages: stage.stages }];
}

/** Returns the id of the place where the items of a Split are gathered. */
export function gatherOf(split: string): string {
  return `${split}/gather`;
}

/** Returns the id of the place where the verdict of a Batch is read. */
export function verdictOf(batch: string): string {
  return `${batch}/verdict`;
}

/** Returns the line of what a stage ends with where no stages stand, if it has one. */
function endOf(stage: Stage): { id: string; label: string; end: 'gather' | 'verdict' } | undefined {
  if (stage.verb === 'Split' && stage.gather)
    return { id: gatherOf(stage.id), label: `gathered as $${stage.gather.as}`, end: 'gather' };
  if (stage.verb === 'Batch' && stage.verdict)
    return { id: verdictOf(stage.id), label: `each with $${stage.verdict.as}`, end: 'verdict' };
  return undefined;
}

/** Returns every line of the outline, from top to bottom. */
export function outlineLines(file: FlowFile): Line[] {
  const lines: Line[] = [];
  const block = (stages: Stage[], id: BlockId, depth: number, prefix: string, failing: boolean) => {
    stages.forEach((stage, i) => {
      const number = `${prefix}${i + 1}`;
      lines.push({ kind: 'stage', id: stage.id, stage, depth, number, block: id, failing });
      const blocks = blocksOf(stage);
      blocks.forEach((way, place) => {
        lines.push({ kind: 'way', id: way.id, way, branch: stage.id, place, depth: depth + 1, failing });
        const inside = stage.verb === 'Branch' ? `${number}.${place + 1}.` : `${number}.`;
        const undo = way.id === `${stage.id}/undo`;
        block(way.stages, way.id, depth + 1, undo ? `${number}.u` : inside, failing || undo);
        if (place === 0) ends();
      });
      function ends() {
        const end = endOf(stage);
        if (!end) return;
        const way = { id: end.id, label: end.label, stages: [] };
        const at = { branch: stage.id, place: blocks.length, depth: depth + 1, failing };
        lines.push({ kind: 'way', id: end.id, way, ...at, end: end.end });
      }
      lane(stage.lane, stage, depth + 1);
    });
  };
  const lane = (its: Lane | undefined, owner: Stage | undefined, depth: number) => {
    its?.rules.forEach((rule) => {
      lines.push({ kind: 'rule', id: rule.id, rule, owner, depth });
      block(rule.stages ?? [], rule.id, depth, '', true);
    });
  };
  const part = (its: Part) => {
    const way = { id: its, label: PARTS[its], stages: [] };
    lines.push({ kind: 'way', id: its, way, branch: '', place: 0, depth: 0, failing: false, part: its });
  };
  const once = (file.before?.length ?? 0) > 0 || file.after !== undefined;
  if (file.before?.length) {
    part('before');
    block(file.before, 'before', 0, 'b', false);
  }
  if (once) part('each');
  block(file.stages, MAIN, 0, '', false);
  lane(file.lane, undefined, 0);
  if (file.after) {
    part('after');
    block(file.after.stages, 'after', 0, 'a', false);
  }
  return lines;
}

/** Returns every stage, wherever it stands, in the order of the outline. */
export function allStages(file: FlowFile): Stage[] {
  return outlineLines(file).flatMap((line) => (line.kind === 'stage' ? [line.stage] : []));
}

/** Returns the Splits that a stage or a rule is within, the outermost first. */
export function splitsAround(file: FlowFile, id: string): SplitStage[] {
  const around = (stages: Stage[]): SplitStage[] | undefined => {
    for (const stage of stages) {
      if (stage.id === id || endOf(stage)?.id === id || stage.lane?.rules.some((rule) => rule.id === id))
        return [];
      const blocks = blocksOf(stage).map((block) => block.stages);
      const lanes = stage.lane?.rules.map((rule) => rule.stages ?? []) ?? [];
      for (const inside of [...blocks, ...lanes]) {
        const found = around(inside);
        if (found) return stage.verb === 'Split' && blocks.includes(inside) ? [stage, ...found] : found;
      }
    }
    return undefined;
  };
  return around([...(file.before ?? []), ...file.stages, ...(file.after?.stages ?? [])]) ?? [];
}

/** Returns some stages with every stage within them. */
export function allInside(stages: Stage[]): Stage[] {
  return stages.flatMap((stage) => [
    stage,
    ...allInside(blocksOf(stage).flatMap((block) => block.stages)),
    ...allInside(stage.lane?.rules.flatMap((rule) => rule.stages ?? []) ?? []),
  ]);
}

type ChangeBlock = (stages: Stage[], block: BlockId) => Stage[];

function laneWith(lane: Lane | undefined, change: ChangeBlock): Lane | undefined {
  return (
    lane && {
      ...lane,
      rules: lane.rules.map((rule) =>
        rule.stages?.length || ['go-on', 'reject', 'ask'].includes(rule.then)
          ? { ...rule, stages: blockWith(rule.stages ?? [], rule.id, change) }
          : rule,
      ),
    }
  );
}

function blockWith(stages: Stage[], block: BlockId, change: ChangeBlock): Stage[] {
  return change(stages, block).map((stage) => {
    const inner = { ...stage, lane: laneWith(stage.lane, change) };
    if (!inner.lane) delete inner.lane;
    if (inner.verb === 'Call' && inner.undo?.length)
      return { ...inner, undo: blockWith(inner.undo, `${inner.id}/undo`, change) };
    if (inner.verb === 'Read' && inner.from) {
      const [call] = blockWith([inner.from.call], `${inner.id}${SOURCE}`, change);
      if (call?.verb === 'Call') return { ...inner, from: { ...inner.from, call } };
      const { from: _, ...bare } = inner;
      return bare;
    }
    if (inner.verb === 'Split')
      return { ...inner, stages: blockWith(inner.stages, `${inner.id}/items`, change) };
    if (inner.verb === 'Batch') {
      const stages = blockWith(inner.stages, `${inner.id}/records`, change);
      const undo = inner.undo?.length ? blockWith(inner.undo, `${inner.id}/undo`, change) : undefined;
      return undo ? { ...inner, stages, undo } : { ...inner, stages };
    }
    return inner.verb === 'Branch'
      ? {
          ...inner,
          ways: inner.ways.map((way) => ({ ...way, stages: blockWith(way.stages, way.id, change) })),
        }
      : inner;
  });
}

/** Returns the file with every list of stages changed, outer ones first. */
export function withBlocks(file: FlowFile, change: ChangeBlock): FlowFile {
  const next = { ...file, stages: blockWith(file.stages, MAIN, change), lane: laneWith(file.lane, change) };
  const before = blockWith(file.before ?? [], 'before', change);
  if (before.length > 0) next.before = before;
  else delete next.before;
  if (file.after) next.after = { ...file.after, stages: blockWith(file.after.stages, 'after', change) };
  if (!next.lane) delete next.lane;
  return next;
}

/** Returns the file with one stage changed, wherever it stands. */
export function withStage(file: FlowFile, id: string, change: (stage: Stage) => Stage): FlowFile {
  return withBlocks(file, (stages) =>
    stages.some((s) => s.id === id) ? stages.map((s) => (s.id === id ? change(s) : s)) : stages,
  );
}

/** Returns the file without a stage. */
export function withoutStage(file: FlowFile, id: string): FlowFile {
  return withBlocks(file, (stages) => stages.filter((s) => s.id !== id));
}

/** Returns the file with a stage added behind another, or at the beginning of a block when that is the block's id. */
export function withStageAfter(file: FlowFile, after: string, stage: Stage): FlowFile {
  let done = false;
  const next = withBlocks(file, (stages, block) => {
    if (done) return stages;
    const at = stages.findIndex((s) => s.id === after);
    if ((at < 0 && (block !== after || after === MAIN)) || isSource(block)) return stages;
    done = true;
    return [...stages.slice(0, at + 1), stage, ...stages.slice(at + 1)];
  });
  return done ? next : { ...file, stages: [...file.stages, stage] };
}

/** Returns the file with a lane of a stage, or of the flow when there is no stage. */
export function withLane(file: FlowFile, stage: string | undefined, lane: Lane | undefined): FlowFile {
  const its = lane && lane.rules.length > 0 ? lane : undefined;
  if (stage === undefined) return { ...file, lane: its };
  return withStage(file, stage, (s) => ({ ...s, lane: its }));
}

/** Returns the file with one rule changed, wherever it stands; null removes it. */
export function withRule(file: FlowFile, id: string, change: (rule: Rule) => Rule | null): FlowFile {
  const rules = (lane: Lane | undefined) =>
    lane && {
      ...lane,
      rules: lane.rules.map((r) => (r.id === id ? change(r) : r)).filter((r): r is Rule => r !== null),
    };
  const owner = outlineLines(file).find((line) => line.kind === 'rule' && line.id === id);
  if (owner?.kind !== 'rule') return file;
  return withLane(file, owner.owner?.id, rules(owner.owner ? owner.owner.lane : file.lane));
}

/**
 * Moves a stage one line up or down: past its neighbour, into a way of a Branch that stands there, or out of the
 * way it is
 * in. A Read stays where it is.
 */
export function moved(file: FlowFile, id: string, up: boolean): FlowFile {
  const line = outlineLines(file).find((l) => l.kind === 'stage' && l.id === id);
  if (line?.kind !== 'stage' || line.stage.verb === 'Read' || isSource(line.block)) return file;
  const blocks = new Map<BlockId, Stage[]>();
  withBlocks(file, (stages, block) => {
    blocks.set(block, stages);
    return stages;
  });
  const here = blocks.get(line.block) ?? [];
  const at = here.findIndex((s) => s.id === id);
  const neighbour = here[at + (up ? -1 : 1)];
  if (neighbour?.verb === 'Read') return file;
  const without = withoutStage(file, id);
  // into ways and items; past what takes a call back
  const ways = neighbour ? blocksOf(neighbour).filter((way) => way.id !== `${neighbour.id}/undo`) : [];
  if (ways.length > 0) {
    const way = ways[up ? ways.length - 1 : 0];
    return withBlocks(without, (stages, block) =>
      block !== way.id ? stages : up ? [...stages, line.stage] : [line.stage, ...stages],
    );
  }
  if (neighbour) {
    return withBlocks(without, (stages, block) => {
      if (block !== line.block) return stages;
      const place = at + (up ? -1 : 1);
      return [...stages.slice(0, place), line.stage, ...stages.slice(place)];
    });
  }
  // at the end of its block: the next way of the same Branch, or out of it
  const branch = allStages(file).find((s) => blocksOf(s).some((w) => w.id === line.block));
  if (!branch) return file;
  const around = blocksOf(branch);
  const way = around.findIndex((w) => w.id === line.block);
  const next = around[way + (up ? -1 : 1)] as Branching | undefined;
  return withBlocks(without, (stages, block) => {
    if (next) return block !== next.id ? stages : up ? [...stages, line.stage] : [line.stage, ...stages];
    const place = stages.findIndex((s) => s.id === branch.id);
    if (place < 0) return stages;
    return up
      ? [...stages.slice(0, place), line.stage, ...stages.slice(place)]
      : [...stages.slice(0, place + 1), line.stage, ...stages.slice(place + 1)];
  });
}

/** Returns an id nothing in the flow has yet. */
export function freeStageId(file: FlowFile, base: string): string {
  const taken = new Set(outlineLines(file).map((line) => line.id));
  let id = base;
  for (let n = 2; taken.has(id); n++) id = `${base}${n}`;
  return id;
}

/** Returns a variable name nothing in the flow has yet. */
export function freeVariable(file: FlowFile, base: string): string {
  const taken = new Set(
    allStages(file)
      .flatMap((s) =>
        s.verb === 'Split'
          ? [s.item, s.gather?.as]
          : s.verb === 'Batch'
            ? [s.batch, s.verdict?.as]
            : s.verb === 'Read'
              ? [s.as, s.carry?.as]
              : 'as' in s
                ? [s.as]
                : [],
      )
      .concat('run', 'failure', 'fault'),
  );
  let name = base;
  for (let n = 2; taken.has(name); n++) name = `${base}${n}`;
  return name;
}

/** Returns a copy of a stage with ids and a variable of its own, and of everything within it. */
export function duplicated(file: FlowFile, stage: Stage): Stage {
  const taken = new Set(outlineLines(file).map((line) => line.id));
  const fresh = (id: string) => {
    let next = id;
    for (let n = 2; taken.has(next); n++) next = `${id.replace(/\d+$/, '')}${n}`;
    taken.add(next);
    return next;
  };
  const copy = (s: Stage): Stage => {
    const made = {
      ...s,
      id: fresh(s.id),
      lane: s.lane && {
        rules: s.lane.rules.map((r) => ({ ...r, id: fresh(r.id), stages: r.stages?.map(copy) })),
      },
    } as Stage;
    if (!made.lane) delete made.lane;
    if ('as' in made) made.as = freeVariable(file, made.as.replace(/\d+$/, ''));
    if (made.verb === 'Call' && made.undo) return { ...made, undo: made.undo.map(copy) };
    if (made.verb === 'Batch')
      return {
        ...made,
        batch: freeVariable(file, made.batch ?? 'batch'),
        verdict: made.verdict && { ...made.verdict, as: freeVariable(file, made.verdict.as ?? 'verdict') },
        stages: made.stages.map(copy),
        ...(made.undo ? { undo: made.undo.map(copy) } : {}),
      };
    if (made.verb === 'Split')
      return {
        ...made,
        gather: made.gather && { ...made.gather, as: freeVariable(file, made.gather.as) },
        stages: made.stages.map(copy),
      };
    return made.verb === 'Branch'
      ? { ...made, ways: made.ways.map((w) => ({ ...w, id: fresh(w.id), stages: w.stages.map(copy) })) }
      : made;
  };
  return copy(stage);
}

/**
 * Returns a stage of another flow for this one: with ids of its own, and variables that are free here. What is within
 * it follows where a variable has another name.
 */
export function pasted(file: FlowFile, stage: Stage): Stage {
  const copy = duplicated(file, stage);
  const before = allInside([stage]).flatMap(variablesOf);
  const after = allInside([copy]).flatMap(variablesOf);
  let text = JSON.stringify(copy);
  before.forEach((name, i) => {
    const other = after[i];
    if (name && other && name !== other)
      text = text.replace(
        new RegExp(`\\$${name.replace(/[.-]/g, '\\$&')}(?![\\p{L}\\p{N}_.-])`, 'gu'),
        () => `$${other}`,
      );
  });
  return JSON.parse(text) as Stage;
}

/** Returns the variables a stage makes, in an order that is always the same. */
function variablesOf(stage: Stage): (string | undefined)[] {
  if (stage.verb === 'Split') return [stage.gather?.as];
  if (stage.verb === 'Batch') return [stage.batch, stage.verdict?.as];
  return ['as' in stage ? stage.as : undefined];
}
