import { createContext, useContext } from 'react';

export type Environment = 'Test' | 'Live';

/** The environment chosen in the top bar; everything that calls a service uses it. */
export const EnvironmentContext = createContext<{ environment: Environment; choose: (e: Environment) => void }>({
  environment: 'Test',
  choose: () => undefined,
});

export function useEnvironment(): Environment {
  return useContext(EnvironmentContext).environment;
}
