import type { ComponentType } from 'react';
import type { CallStage as Call, FlowFile, Stage, Verb } from '../api/flow';
import type { Preview, SheetProposal } from '../api/types';
import { AnswerStage } from './AnswerStage';
import { BatchStage } from './BatchStage';
import { CallStage } from './CallStage';
import { MapStage } from './MapStage';
import { ReadStage } from './ReadStage';
import { BranchStage, FilterStage, LookUpStage, NoteStage } from './SmallStages';
import { SplitStage } from './SplitStage';
import { WriteStage } from './WriteStage';

/** What the pane of a stage is given. */
export type PaneProps<S extends Stage> = {
  file: FlowFile;
  stage: S;
  number: string;
  /** The call whose reply is in reach, the last one before the stage. */
  call: Call | undefined;
  preview: Preview | undefined;
  focus: string | undefined;
  /** What a mapping sheet proposes, until it is looked at. */
  sheet: SheetProposal[] | undefined;
  onSheet: () => void;
  onFocus: (path: string) => void;
  onChange: (stage: S) => void;
  onFile: (file: FlowFile) => void;
  /** Another name for what the stage makes. */
  onVariable: (name: string) => void;
  onRemove: () => void;
  onRecord: (record: number) => void;
};

/** The pane of every verb. */
export const PANES: { [V in Verb]: ComponentType<PaneProps<Extract<Stage, { verb: V }>>> } = {
  Read: ReadStage,
  Filter: FilterStage,
  Map: MapStage,
  'Look up': LookUpStage,
  Call: CallStage,
  Split: SplitStage,
  Batch: BatchStage,
  Branch: BranchStage,
  Write: WriteStage,
  Answer: AnswerStage,
  Note: NoteStage,
};
