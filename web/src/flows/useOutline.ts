import { useMemo } from 'react';
import { useSearchParams } from 'react-router';
import type { FlowFile, Rule, Stage, Verb } from '../api/flow';
import {
  allStages,
  duplicated,
  type Line,
  moved,
  type Part,
  outlineLines,
  pasted,
  withLane,
  withoutStage,
  withStage,
  withStageAfter,
} from '../api/outline';
import type { Addition } from './AddStage';
import { newRule, newUndo } from './rules';
import { rejectedRecords, VERBS } from './verbs';

/** What is chosen in the outline of a flow, and what can be done there. */
export type OutlineTools = {
  /** Every stage, wherever it stands. */
  stages: Stage[];
  /** The id of the line that is chosen: a stage, a way, or a rule of a failure lane. */
  at: string;
  /** The stage that is worked on: a way's Branch, and what a rule hangs on. */
  stage: Stage;
  /** The rule that is chosen. */
  rule?: Rule;
  /** What is chosen where no stages stand: what a Split gathers, the verdict of a Batch. */
  end?: 'gather' | 'verdict';
  /** The part of the run that is chosen, by its first line. */
  part?: Part;
  /** The stage whose failure a rule could be added for: the one that is chosen. */
  failing?: Stage;
  number: string;
  choose: (id: string) => void;
  /** Adds a stage: into the way or rule that is chosen, else behind the stage that is. */
  add: (what: Addition) => void;
  remove: (id: string) => void;
  duplicate: () => void;
  /** Keeps a copy of the stage with everything within it, to be pasted in any flow; tells whether there was one. */
  copy: () => boolean;
  /** Adds the stage that was copied last, of whichever flow; tells whether there was one. */
  paste: () => boolean;
  move: (up: boolean) => void;
  /** Chooses the line above or below. */
  step: (by: number) => void;
};

/** Follows what the address says is chosen; `leave` is called when something else is. */
export function useOutline(
  file: FlowFile,
  change: (edit: (file: FlowFile) => FlowFile) => void,
  leave: () => void,
): OutlineTools {
  const [search, setSearch] = useSearchParams();
  const lines = useMemo(() => outlineLines(file), [file]);
  const stages = useMemo(() => allStages(file), [file]);
  const wanted = search.get('stage') || stages.find((s) => s.verb === 'Call')?.id;
  const line: Line = lines.find((l) => l.id === wanted) ?? lines[0];
  const stage = stageOf(line, lines, file);
  const choose = (next: string) => {
    leave();
    setSearch({ stage: next }, { replace: true });
  };
  const chosen = line.kind === 'stage' ? line.stage : undefined;
  return {
    stages,
    at: line.id,
    stage,
    rule: line.kind === 'rule' ? line.rule : undefined,
    end: line.kind === 'way' ? line.end : undefined,
    part: line.kind === 'way' ? line.part : undefined,
    failing: chosen && chosen.verb !== 'Read' && chosen.verb !== 'Note' ? chosen : undefined,
    number: line.kind === 'rule' ? '' : numberOf(stage, lines),
    choose,
    add: (what) => {
      if (what === 'rejected') {
        const made = rejectedRecords(file);
        change((f) => withLane(f, undefined, { rules: [...(f.lane?.rules ?? []), made] }));
        choose(made.stages?.[0].id ?? stage.id);
        return;
      }
      if (what === 'undo') {
        if (stage.verb !== 'Call' && stage.verb !== 'Batch') return;
        const made = newUndo(file, stage);
        change((f) =>
          withStage(
            f,
            stage.id,
            (s) =>
              ('undo' in stage || s.verb === 'Call' || s.verb === 'Batch'
                ? { ...s, undo: [...(stage.undo ?? []), made] }
                : s) as Stage,
          ),
        );
        choose(made.id);
        return;
      }
      if (what === 'before' || what === 'after') {
        const call = VERBS.Call.make?.(file, undefined);
        if (!call) return;
        change((f) =>
          what === 'before'
            ? { ...f, before: [...(f.before ?? []), call] }
            : { ...f, after: { ...f.after, stages: [...(f.after?.stages ?? []), call] } },
        );
        choose(call.id);
        return;
      }
      if (what.startsWith('rule ')) {
        const rule = newRule(file, stage, what.slice('rule '.length) as Rule['then']);
        change((f) => withLane(f, stage.id, { rules: [...(stage.lane?.rules ?? []), rule] }));
        choose(rule.id);
        return;
      }
      const after = placeBehind(line, stage, file);
      const made = VERBS[what as Verb].make?.(file, after);
      if (!made) return;
      change((f) => withStageAfter(f, after, made));
      choose(made.id);
    },
    remove: (id) => {
      const before = lines
        .slice(
          0,
          lines.findIndex((l) => l.id === id),
        )
        .reverse();
      change((f) => withoutStage(f, id));
      choose(before.find((l) => l.kind === 'stage')?.id ?? file.stages[0].id);
    },
    duplicate: () => {
      if (!chosen || chosen.verb === 'Read') return;
      const copy = duplicated(file, chosen);
      change((f) => withStageAfter(f, chosen.id, copy));
      choose(copy.id);
    },
    copy: () => {
      if (!chosen || chosen.verb === 'Read' || chosen.id !== line.id) return false;
      localStorage.setItem(COPIED, JSON.stringify(chosen));
      return true;
    },
    paste: () => {
      const kept = localStorage.getItem(COPIED);
      if (!kept) return false;
      const made = pasted(file, JSON.parse(kept) as Stage);
      change((f) => withStageAfter(f, placeBehind(line, stage, file), made));
      choose(made.id);
      return true;
    },
    move: (up) => chosen && change((f) => moved(f, chosen.id, up)),
    step: (by) => {
      const next = lines[lines.indexOf(line) + by] as Line | undefined;
      if (next) choose(next.id);
    },
  };
}

/** Where the stage that was copied last is kept: every flow of the product in this browser finds it. */
const COPIED = 'copied-stage';

/** Returns behind what a stage is added: where no stages stand is the end of what it belongs to. */
function placeBehind(line: Line, stage: Stage, file: FlowFile): string {
  const behind = line.kind === 'way' && line.end ? stage.id : line.id;
  return behind === 'each' ? file.stages[0].id : behind;
}

/** What belongs to no stage of its own is seen at the stage it hangs on. */
function stageOf(line: Line, lines: Line[], file: FlowFile): Stage {
  if (line.kind === 'stage') return line.stage;
  if (line.kind === 'rule') return line.owner ?? file.stages[0];
  const branch = lines.find((l) => l.kind === 'stage' && l.id === line.branch);
  return branch?.kind === 'stage' ? branch.stage : file.stages[0];
}

function numberOf(stage: Stage, lines: Line[]): string {
  const line = lines.find((l) => l.kind === 'stage' && l.id === stage.id);
  return line?.kind === 'stage' ? line.number : '';
}
