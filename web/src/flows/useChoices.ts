import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import type { Contract, ContractSummary, Dataset, Endpoint, OfferedOperation, Page, SheetRow } from '../api/types';
import { query } from '../api/client';
import type { CallStage } from '../api/flow';

/** What can be picked on the flow page. */
export function useDatasets(): Dataset[] {
  const list = useQuery({ queryKey: ['datasets', 'choices'], queryFn: () => api.get<Page<Dataset>>('/datasets?size=500') });
  return list.data?.items ?? [];
}

export function useContracts(): ContractSummary[] {
  const list = useQuery({ queryKey: ['contracts', 'choices'], queryFn: () => api.get<Page<ContractSummary>>('/contracts?size=500') });
  return list.data?.items ?? [];
}

export function useEndpoints(): Endpoint[] {
  const list = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  return list.data ?? [];
}

export function useOperations(contract: string | undefined): OfferedOperation[] {
  const contracts = useContracts();
  const id = contracts.find((c) => c.name === contract)?.id;
  const whole = useQuery({ queryKey: ['contract', String(id)], queryFn: () => api.get<Contract>(`/contracts/${id}`), enabled: id !== undefined });
  return whole.data?.operations ?? [];
}

/** The sheet of the request or reply a Call stage names. */
export function useSheet(call: CallStage | undefined, message: 'request' | 'reply'): SheetRow[] {
  const contracts = useContracts();
  const id = contracts.find((c) => c.name === call?.contract)?.id;
  const at = query({ service: call?.service, port: call?.port, operation: call?.operation, message });
  const sheet = useQuery({
    queryKey: ['sheet', String(id), at],
    queryFn: () => api.get<SheetRow[]>(`/contracts/${id}/sheet${at}`),
    enabled: id !== undefined && !!call?.operation,
    staleTime: 60_000,
  });
  return sheet.data ?? [];
}
