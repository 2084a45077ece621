import { App } from 'antd';
import { useState } from 'react';
import { api } from '../api/client';
import { type Fill, freeId, withFill } from '../api/flow';
import type { Suggestion } from '../api/types';
import { useAsked } from './asked';

/** A fill somebody or something proposes; nothing of it runs until it is accepted. */
export type Proposal = { target: string; fill: Fill; score: number; reason: string; needs?: string };

/** Proposals from here on can be accepted together. */
const ACCEPT_BAR = 0.6;

/** Proposed fills of a stage: asked for, accepted with what they need, dismissed with what needs them. */
export function useProposals(
  stage: { id: string; fills: Fill[] },
  prefix: string,
  onFills: (fills: Fill[]) => void,
) {
  const { message } = App.useApp();
  const { flowId, file, record, environment, suppose, items } = useAsked();
  const [proposals, setProposals] = useState<Map<string, Proposal>>(new Map());
  const [asking, setAsking] = useState(false);
  const show = (list: Proposal[]) => setProposals(new Map(list.map((p) => [p.target, p])));
  const suggest = async () => {
    setAsking(true);
    try {
      const found = await api.post<Suggestion[]>(`/flows/${flowId}/suggestions`, {
        file,
        stage: stage.id,
        record,
        environment,
        suppose,
        items,
      });
      show(
        found.map((s) => ({
          target: s.fill.target,
          fill: s.fill,
          score: s.score,
          reason: s.reason,
          needs: s.needs,
        })),
      );
      if (found.length === 0)
        void message.info('Nothing more to suggest: no unused field resembles an unfilled one.');
      return found.map((s) => s.fill.target);
    } catch (e) {
      void message.error(e instanceof Error ? e.message : String(e));
      return [];
    } finally {
      setAsking(false);
    }
  };
  const accept = (paths: string[]) => {
    let fills = stage.fills;
    const left = new Map(proposals);
    const take = (path: string | undefined) => {
      const proposal = path === undefined ? undefined : left.get(path);
      if (!proposal) return;
      left.delete(proposal.target);
      take(proposal.needs);
      // what is filled already keeps its id
      const id = fills.find((f) => f.target === proposal.target)?.id ?? freeId(fills, prefix);
      fills = withFill(fills, { ...proposal.fill, id });
    };
    paths.forEach(take);
    setProposals(left);
    onFills(fills);
  };
  const dismiss = (path: string) => {
    const left = new Map(proposals);
    const drop = (target: string) => {
      left.delete(target);
      [...left.values()].filter((p) => p.needs === target).forEach((p) => drop(p.target));
    };
    drop(path);
    setProposals(left);
  };
  const good = [...proposals.values()].filter((p) => p.score >= ACCEPT_BAR).map((p) => p.target);
  return { proposals, asking, suggest, accept, dismiss, show, clear: () => setProposals(new Map()), good };
}
