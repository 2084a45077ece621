import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client';
import type { FlowFile } from '../api/flow';
import type { Proof } from '../api/types';

export type Samples = 'first' | 'random' | 'all';

/** Every sample's whole message held against the contract's schemas, in the background, after each change. */
export function useProof(
  flowId: number,
  file: FlowFile,
  samples: Samples,
  stage: string | undefined,
  environment: string,
  ready: boolean,
) {
  const [proof, setProof] = useState<Proof>();
  const running = useRef<number>(undefined);
  useEffect(() => {
    if (!ready) return undefined;
    let over = false;
    let timer = 0;
    setProof((before) => (before ? { ...before, state: 'running', checked: 0 } : before));
    const watch = async (id: number) => {
      const state = await api.get<Proof>(`/proofs/${id}`);
      if (over) return;
      setProof(state);
      if (state.state === 'running')
        timer = window.setTimeout(() => void watch(id).catch(() => undefined), 350);
    };
    timer = window.setTimeout(() => {
      void api
        .post<Proof>(`/flows/${flowId}/proofs`, { file, samples, stage, environment })
        .then((started) => {
          running.current = started.id;
          if (over) void api.remove(`/proofs/${started.id}`);
          else void watch(started.id).catch(() => undefined);
        })
        .catch(() => undefined);
    }, 700);
    return () => {
      over = true;
      window.clearTimeout(timer);
      if (running.current !== undefined) void api.remove(`/proofs/${running.current}`).catch(() => undefined);
      running.current = undefined;
    };
  }, [flowId, file, samples, stage, environment, ready]);
  const cancel = () => {
    if (running.current !== undefined) void api.remove(`/proofs/${running.current}`);
  };
  return { proof, cancel };
}
