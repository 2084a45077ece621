import type { FlowFile, Rule, Stage } from '../api/flow';
import { freeStageId } from '../api/outline';

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
  ];
}

/** Returns a new rule of a stage's failure lane. */
export function newRule(file: FlowFile, stage: Stage, then: Rule['then']): Rule {
  return {
    id: freeStageId(file, `${stage.id}-rule`),
    then,
    ...(then === 'again' ? { times: 2, backOffMillis: 200 } : {}),
  };
}
