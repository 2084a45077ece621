import { createContext, useContext } from 'react';
import type { FlowFile } from '../api/flow';
import type { Suppose } from './SamplePane';
import type { Samples } from './useProof';

/** What the preview of a flow is asked with: the stage or rule that is worked on, and the sample. */
export type Asked = {
  file: FlowFile;
  stage: string;
  record: number;
  environment: string;
  samples: Samples;
  suppose: Suppose;
  /** Which items are shown, from 1, by the ids of their Splits; the first where nothing is said. */
  items: Record<string, number>;
};

/** What the panes of the flow page ask with. */
export const AskedContext = createContext<(Asked & { flowId: number }) | undefined>(undefined);

/** Returns what a pane asks with; for use within the flow page. */
export function useAsked(): Asked & { flowId: number } {
  const asked = useContext(AskedContext);
  if (!asked) throw new Error('outside the flow page');
  return asked;
}
