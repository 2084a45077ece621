import { useQueryClient } from '@tanstack/react-query';
import { App } from 'antd';
import { api, ApiProblem } from '../api/client';
import type { Secret } from '../api/types';

/** Offers to allow a secret where it may not be sent yet; what was refused goes on then. Tells whether it did. */
export function useElsewhere() {
  const client = useQueryClient();
  const { modal, message } = App.useApp();
  return (problem: unknown, goOn: () => void): boolean => {
    if (!(problem instanceof ApiProblem) || problem.code !== 'secret-elsewhere' || !problem.body.destination)
      return false;
    const name = String(problem.body.secret);
    const destination = String(problem.body.destination);
    modal.confirm({
      title: `Send “${name}” to ${destination}?`,
      content:
        'A secret is sent only to allowed places. Allow this one if the secret belongs to that service.',
      okText: 'Allow and go on',
      onOk: async () => {
        try {
          const known =
            (await api.get<Secret[]>('/secrets')).find((s) => s.name === name)?.destinations ?? [];
          await api.put(`/secrets/${encodeURIComponent(name)}/destinations`, {
            destinations: [...known, destination],
          });
          await client.invalidateQueries({ queryKey: ['secrets'] });
          goOn();
        } catch (e) {
          void message.error(e instanceof Error ? e.message : String(e), 8);
        }
      },
    });
    return true;
  };
}
