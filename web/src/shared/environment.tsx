import { createContext, useContext } from 'react';

/** Where calls go: Simulator is our own service answering in a contract's place. */
export const ENVIRONMENTS = ['Test', 'Live', 'Simulator'] as const;
export type Environment = (typeof ENVIRONMENTS)[number];

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
