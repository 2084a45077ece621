import { useCallback } from 'react';
import { api } from '../api/client';
import type { Fill } from '../api/flow';
import type { Preview } from '../api/types';
import { useAsked } from './asked';
import type { Told } from './ExpressionStrip';

/** Returns what tries an expression on the sample, for a target where it fills one. */
export function useTry() {
  const { flowId, file, stage, record, environment, suppose, items } = useAsked();
  return useCallback(
    (expression: string, target?: string) =>
      api.post<Told>(`/flows/${flowId}/expression`, {
        file,
        stage,
        record,
        environment,
        suppose,
        items,
        expression,
        target,
      }),
    [flowId, file, stage, record, environment, suppose, items],
  );
}

/** Returns fills with the fix of a target taken. */
export function withFix(fills: Fill[], preview: Preview | undefined, path: string): Fill[] {
  const fix = preview?.fields[path]?.fix;
  return fix ? fills.map((f) => (f.target === path ? { ...f, format: fix.format } : f)) : fills;
}

/** Returns what is wrong with rows of a stage before any record. */
export function wrongRows(preview: Preview | undefined, stage: string): Map<string, string> {
  return new Map(
    (preview?.problems ?? [])
      .filter((p) => p.stage === stage && p.field)
      .map((p) => [String(p.field), String(p.message).replace(/^\S+ /, '')]),
  );
}
