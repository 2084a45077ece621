import { Button } from 'antd';
import type { useProposals } from './useProposals';

/** Asks for proposals; accepts those that are sure together, or lets them all go. */
export function SuggestButtons({
  proposed,
  onSuggest,
}: {
  proposed: ReturnType<typeof useProposals>;
  onSuggest: () => void;
}) {
  const { proposals, good, asking } = proposed;
  return (
    <>
      {proposals.size > 0 && good.length > 0 && (
        <Button
          size="small"
          type="primary"
          title="all with a score of 0.60 or more"
          onClick={() => proposed.accept(good)}
        >
          Accept {good.length}
        </Button>
      )}
      {proposals.size > 0 && (
        <Button size="small" type="text" onClick={proposed.clear}>
          Dismiss
        </Button>
      )}
      <Button size="small" loading={asking} title="propose fills  S" onClick={onSuggest}>
        Suggest{proposals.size > 0 ? ` ${proposals.size}` : ''}
      </Button>
    </>
  );
}
