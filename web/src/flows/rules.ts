import type { BatchStage, CallStage, FlowFile, Rule, Stage } from '../api/flow';
import { allInside, allStages, freeStageId, freeVariable } from '../api/outline';
import { DELIVERY } from './delivery';

/** What rules can do at a stage. */
export function ruleActions(stage: Stage | undefined): { value: Rule['then']; label: string }[] {
  return [
    ...(stage ? [{ value: 'again' as const, label: 'try again' }] : []),
    ...(stage && 'as' in stage
      ? [{ value: 'use' as const, label: `use a value for $${stage.as} and go on` }]
      : []),
    ...(stage ? [{ value: 'go-on' as const, label: 'run stages and go on' }] : []),
    { value: 'reject', label: 'run stages and reject' },
    { value: 'stop', label: 'reject and stop the run' },
    ...(stage && mayBeAsked(stage)
      ? [{ value: 'ask' as const, label: 'in doubt: ask what became of it' }]
      : []),
  ];
}

/**
 * Tells whether a stage changes data, so that it can be taken back. What takes something back cannot be itself; of a
 * batch each record is taken back alone.
 */
export function mayBeUndone(file: FlowFile, stage: Stage): stage is CallStage | BatchStage {
  const within = (other: Stage) =>
    ('undo' in other && allInside(other.undo ?? []).some((s) => s.id === stage.id)) ||
    (other.verb === 'Batch' && allInside(other.stages).some((s) => s.id === stage.id));
  const changes =
    stage.verb === 'Batch'
      ? changesData(stage)
      : stage.verb === 'Call' && stage.delivery.effect === 'changes';
  return changes && !allStages(file).some(within);
}

function changesData(batch: BatchStage): boolean {
  return allInside(batch.stages).some((s) => s.verb === 'Call' && s.delivery.effect === 'changes');
}

/** Tells whether a stage can be in doubt, and a service asked about it. */
function mayBeAsked(stage: Stage): stage is CallStage {
  return stage.verb === 'Call' && stage.delivery.effect === 'changes';
}

/** Returns a call of the same service that takes a change back. */
export function newUndo(file: FlowFile, stage: CallStage | BatchStage): CallStage {
  const call =
    stage.verb === 'Call' ? stage : allInside(stage.stages).find((s): s is CallStage => s.verb === 'Call');
  return sameService(file, call, `${stage.id}-undo`, 'undone', 'changes');
}

function sameService(
  file: FlowFile,
  call: CallStage | undefined,
  id: string,
  as: string,
  effect: CallStage['delivery']['effect'],
): CallStage {
  return {
    verb: 'Call',
    id: freeStageId(file, id),
    as: freeVariable(file, as),
    contract: call?.contract,
    service: call?.service,
    port: call?.port,
    endpoint: call?.endpoint,
    fills: [],
    delivery: { ...DELIVERY, effect },
  };
}

/** Returns a new rule of a stage's failure lane; one that asks has the call of an operation to ask with. */
export function newRule(file: FlowFile, stage: Stage, then: Rule['then']): Rule {
  return {
    id: freeStageId(file, `${stage.id}-rule`),
    then,
    ...(then === 'again' ? { times: 2, backOffMillis: 200 } : {}),
    ...(then === 'ask' && mayBeAsked(stage)
      ? { stages: [sameService(file, stage, `${stage.id}-found`, 'found', 'reads')], outcomes: {} }
      : {}),
  };
}
