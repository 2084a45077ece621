import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';
import type {
  CodeTableSummary,
  Contract,
  ContractSummary,
  Dataset,
  Endpoint,
  OfferedOperation,
  Page,
  Series,
  SheetPage,
} from '../api/types';
import type { CallStage } from '../api/flow';
import { NONE } from '../shared/none';

/** What can be picked on the flow page. */
export function useDatasets(): Dataset[] {
  const list = useQuery({
    queryKey: ['datasets', 'choices'],
    queryFn: () => api.get<Page<Dataset>>('/datasets?size=500'),
  });
  return list.data?.items ?? NONE;
}

export function useCodeTables(): CodeTableSummary[] {
  const list = useQuery({
    queryKey: ['code-tables', 'choices'],
    queryFn: () => api.get<Page<CodeTableSummary>>('/code-tables?size=500'),
  });
  return list.data?.items ?? NONE;
}

export function useSeries(): Series[] {
  const list = useQuery({
    queryKey: ['series', 'choices'],
    queryFn: () => api.get<Page<Series>>('/series?size=500'),
  });
  return list.data?.items ?? NONE;
}

export function useContracts(): ContractSummary[] {
  const list = useQuery({
    queryKey: ['contracts', 'choices'],
    queryFn: () => api.get<Page<ContractSummary>>('/contracts?size=500'),
  });
  return list.data?.items ?? NONE;
}

export function useEndpoints(): Endpoint[] {
  const list = useQuery({ queryKey: ['endpoints'], queryFn: () => api.get<Endpoint[]>('/endpoints') });
  return list.data ?? NONE;
}

export function useOperations(contract: string | undefined): OfferedOperation[] {
  const contracts = useContracts();
  const id = contracts.find((c) => c.name === contract)?.id;
  const whole = useQuery({
    queryKey: ['contract', String(id)],
    queryFn: () => api.get<Contract>(`/contracts/${id}`),
    enabled: id !== undefined,
  });
  return whole.data?.operations ?? NONE;
}

/** The contract a Call names, by id. */
export function useContractId(call: CallStage | undefined): number | undefined {
  return useContracts().find((c) => c.name === call?.contract)?.id;
}

/** The sheet of the request or reply a Call stage names, with what is picked in it and opened by hand. */
export function useSheet(
  call: CallStage | undefined,
  message: 'request' | 'reply',
  picks: string[] = [],
  open: string[] = [],
  closed: string[] = [],
  search = '',
): SheetPage | undefined {
  const id = useContractId(call);
  const wanted = {
    service: call?.service,
    port: call?.port,
    operation: call?.operation,
    message,
    picks,
    open,
    closed,
    search,
    size: 4000,
    documents: call?.documents?.filter((d) => d.message === message),
  };
  const sheet = useQuery({
    queryKey: ['sheet', id, wanted],
    queryFn: () => api.post<SheetPage>(`/contracts/${id}/sheet`, wanted),
    enabled: id !== undefined && !!call?.operation,
    staleTime: 60_000,
    placeholderData: (before, query) =>
      (query?.queryKey[2] as typeof wanted | undefined)?.operation === call?.operation ? before : undefined,
  });
  return sheet.data;
}
