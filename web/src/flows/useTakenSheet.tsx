import { App } from 'antd';
import { useEffect } from 'react';
import type { Fill } from '../api/flow';
import type { SheetProposal } from '../api/types';
import type { Proposal } from './useProposals';

/** Shows once what the lines of a mapping sheet propose; what was not understood is told line by line. */
export function useTakenSheet(
  sheet: SheetProposal[] | undefined,
  onSheet: () => void,
  show: (proposals: Proposal[]) => void,
  onShown: (first: string | undefined) => void,
) {
  const { modal } = App.useApp();
  useEffect(() => {
    if (!sheet) return;
    const same = sheet.filter((l) => l.same).length;
    const read = sheet.filter((l) => l.fill && !l.same);
    show(
      read.map((l) => {
        const wrong = l.proof?.invalid ? `${l.proof.invalid} samples do not fit` : '';
        const reason = [`line ${l.number} of the sheet`, l.problem, wrong, l.line.remark]
          .filter(Boolean)
          .join('; ');
        return {
          target: String(l.fill?.target),
          fill: l.fill as Fill,
          score: l.problem || wrong ? 0.5 : 1,
          reason,
        };
      }),
    );
    const unread = sheet.filter((l) => !l.fill && l.line.source);
    modal.info({
      title: `${read.length} of ${sheet.length} lines propose a fill`,
      width: 560,
      content: (
        <div>
          {same > 0 && <p>{same === 1 ? '1 line says' : `${same} lines say`} what is filled already.</p>}
          {read.length > 0 && (
            <p>
              They are in the sheet below, each with its reason; accept them one by one, or all that fit every
              sample.
            </p>
          )}
          {[...read.filter((l) => l.problem), ...unread].slice(0, 12).map((l) => (
            <div key={l.number}>
              line {l.number}, <span className="mono">{l.line.target}</span>:{' '}
              <span className="bad">{l.problem}</span>
            </div>
          ))}
        </div>
      ),
    });
    onShown(read[0]?.fill?.target);
    onSheet();
    // what was read is shown once
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [sheet]);
}
