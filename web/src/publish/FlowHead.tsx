import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { NavLink } from 'react-router';
import { api } from '../api/client';
import type { Flow } from '../api/flow';
import css from './publish.module.css';

/** A flow as it is saved. */
export function useFlow(id: string | undefined) {
  return useQuery({ queryKey: ['flow', id, 'saved'], queryFn: () => api.get<Flow>(`/flows/${id}`) });
}

/** The head of the pages about one flow that is at work: its name, and the ways between these pages. */
export function FlowHead({ id, children }: { id: string; children?: ReactNode }) {
  const flow = useFlow(id);
  const first = flow.data?.file.stages[0];
  const answers = first?.verb === 'Read' && first.input !== undefined;
  const on = ({ isActive }: { isActive: boolean }) => (isActive ? css.on : '');
  return (
    <div className="page-head">
      <h1 className="clip" title={flow.data?.file.name}>
        {flow.data?.file.name ?? '…'}
      </h1>
      <span className="chip">revision {flow.data?.revision}</span>
      <nav className={css.ways}>
        <NavLink to={`/flows/${id}`} end className={on}>
          Outline
        </NavLink>
        <NavLink to={`/flows/${id}/publish`} className={on}>
          Publish
        </NavLink>
        <NavLink to={`/flows/${id}/triggers`} className={on}>
          Triggers
        </NavLink>
        {answers && (
          <NavLink to={`/flows/${id}/callers`} className={on}>
            Callers
          </NavLink>
        )}
        <NavLink to={`/flows/${id}/alerts`} className={on}>
          Alerts
        </NavLink>
      </nav>
      <span className="grow" />
      {children}
    </div>
  );
}
