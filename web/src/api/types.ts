import type { components } from './schema';

/** The API's types, generated from the committed OpenAPI document. */
type S = components['schemas'];
export type Person = S['Person'];
export type Run = S['Run'];
export type RunState = S['RunState'];
export type LedgerLine = S['LedgerLine'];
export type Cause = S['Cause'];
export type Way = S['Way'];
export type Desk = S['Desk'];
export type Found = S['Found'];
export type ContractSummary = S['ContractSummary'];
export type Contract = Omit<S['Contract'], 'findings'> & { findings: Finding[] };
export type OfferedOperation = S['OfferedOperation'];
export type ImportJob = Omit<S['ImportJob'], 'findings'> & { findings: Finding[] };
export type Finding = Required<S['Finding']>;
export type SheetRow = S['SheetRow'];
export type Dataset = S['Dataset'];
export type FlowSummary = S['FlowSummary'];
export type FlowProblem = S['FlowProblem'];
export type Preview = S['Preview'];
export type FieldValue = S['FieldValue'];
export type SourceGroup = S['SourceGroup'];
export type SourceField = S['SourceField'];
export type Suggestion = Required<Omit<S['Suggestion'], 'format'>> & Pick<S['Suggestion'], 'format'>;
export type AllowedHost = S['AllowedHost'];
export type Endpoint = S['Endpoint'];
export type Page<T> = { items: T[]; total: number };
