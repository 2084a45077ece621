import { useQuery } from '@tanstack/react-query';
import { createContext, useContext } from 'react';
import { api } from '../api/client';
import type { EnvironmentOf } from '../api/types';

/** The name of an environment; calls in Simulator go to our own service in a contract's place. */
export type Environment = string;
export const SIMULATOR = 'Simulator';

/** The environment chosen in the top bar; everything that calls a service uses it. */
export const EnvironmentContext = createContext<{
  environment: Environment;
  choose: (e: Environment) => void;
}>({
  environment: 'Test',
  choose: () => undefined,
});

export function useEnvironment(): Environment {
  return useContext(EnvironmentContext).environment;
}

const ALL = {
  queryKey: ['environments'],
  queryFn: ({ signal }: { signal: AbortSignal }) => api.get<EnvironmentOf[]>('/environments', signal),
  staleTime: 60_000,
};

/** Returns all environments in their order; none while they load. */
export function useEnvironments(): EnvironmentOf[] {
  return useQuery(ALL).data ?? [];
}

/** Returns whether an environment is one where things are for real. */
export function useLive(): (environment: Environment) => boolean {
  const all = useEnvironments();
  return (environment) => all.some((e) => e.name === environment && e.live);
}

/** The name of an environment with its sign: live ones have one of their own and stand out. */
export function EnvironmentName({ of }: { of: EnvironmentOf }) {
  const sign = of.live ? '▲' : of.name === SIMULATOR ? '◇' : '●';
  return (
    <span className={`environment env-${of.colour}`}>
      <i>{sign}</i> {of.live ? <b>{of.name}</b> : of.name}
    </span>
  );
}
