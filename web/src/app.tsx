import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Spin } from 'antd';
import { lazy, Suspense, useEffect } from 'react';
import { Route, Routes, useLocation } from 'react-router';
import { api, ApiProblem } from './api/client';
import type { Person } from './api/types';
import { Mishap } from './shared/Mishap';
import { Shell } from './shared/Shell';
import { SignIn } from './signin/SignIn';

const Desk = lazy(() => import('./desk/Desk').then((m) => ({ default: m.Desk })));
const ContractList = lazy(() =>
  import('./contracts/ContractList').then((m) => ({ default: m.ContractList })),
);
const ContractPage = lazy(() =>
  import('./contracts/ContractPage').then((m) => ({ default: m.ContractPage })),
);
const RefreshPage = lazy(() => import('./contracts/RefreshPage').then((m) => ({ default: m.RefreshPage })));
const BenchPage = lazy(() => import('./bench/BenchPage').then((m) => ({ default: m.BenchPage })));
const DatasetList = lazy(() => import('./datasets/DatasetList').then((m) => ({ default: m.DatasetList })));
const DatasetPage = lazy(() => import('./datasets/DatasetPage').then((m) => ({ default: m.DatasetPage })));
const FlowList = lazy(() => import('./flows/FlowList').then((m) => ({ default: m.FlowList })));
const FlowPage = lazy(() => import('./flows/FlowPage').then((m) => ({ default: m.FlowPage })));
const PublishPage = lazy(() => import('./publish/PublishPage').then((m) => ({ default: m.PublishPage })));
const CallersPage = lazy(() => import('./serve/CallersPage').then((m) => ({ default: m.CallersPage })));
const TriggersPage = lazy(() => import('./triggers/TriggersPage').then((m) => ({ default: m.TriggersPage })));
const LinkPage = lazy(() => import('./ask/LinkPage').then((m) => ({ default: m.LinkPage })));
const PersonPage = lazy(() => import('./ask/PersonPage').then((m) => ({ default: m.PersonPage })));
const AskPageList = lazy(() => import('./ask/AskPageList').then((m) => ({ default: m.AskPageList })));
const RunList = lazy(() => import('./runs/RunList').then((m) => ({ default: m.RunList })));
const CorrectPage = lazy(() => import('./runs/CorrectPage').then((m) => ({ default: m.CorrectPage })));
const FindRecords = lazy(() => import('./runs/FindRecords').then((m) => ({ default: m.FindRecords })));
const AlertsPage = lazy(() => import('./alerts/AlertsPage').then((m) => ({ default: m.AlertsPage })));
const FlowAlerts = lazy(() => import('./alerts/FlowAlerts').then((m) => ({ default: m.FlowAlerts })));
const RunPage = lazy(() => import('./runs/RunPage').then((m) => ({ default: m.RunPage })));
const Settings = lazy(() => import('./settings/Settings').then((m) => ({ default: m.Settings })));
const CodeTablePage = lazy(() => import('./codes/CodeTablePage').then((m) => ({ default: m.CodeTablePage })));
const EndpointPage = lazy(() => import('./settings/EndpointPage').then((m) => ({ default: m.EndpointPage })));
const SimulatorPage = lazy(() =>
  import('./simulators/SimulatorPage').then((m) => ({ default: m.SimulatorPage })),
);

/** Whoever has a link asks without signing in. */
export function App() {
  return useLocation().pathname.startsWith('/ask/') ? (
    <Suspense fallback={<Spin className="waiting" />}>
      <LinkPage />
    </Suspense>
  ) : (
    <Workplace />
  );
}

function Workplace() {
  const client = useQueryClient();
  const location = useLocation();
  const me = useQuery({ queryKey: ['me'], queryFn: () => api.get<Person>('/me'), staleTime: Infinity });
  useEffect(() => {
    const out = () => client.setQueryData(['me'], null);
    window.addEventListener('signed-out', out);
    return () => window.removeEventListener('signed-out', out);
  }, [client]);
  if (me.isPending) return <Spin className="waiting" />;
  if (!me.data) {
    const down = me.error instanceof ApiProblem && me.error.status !== 401 ? me.error.message : undefined;
    return <SignIn problem={down} onDone={(person) => client.setQueryData(['me'], person)} />;
  }
  return (
    <Shell person={me.data}>
      <Mishap key={location.pathname}>
        <Suspense fallback={<Spin className="waiting" />}>
          <Routes>
            <Route path="/" element={<Desk />} />
            <Route path="/contracts" element={<ContractList />} />
            <Route path="/contracts/:id" element={<ContractPage />} />
            <Route path="/contracts/:id/refresh/:job" element={<RefreshPage />} />
            <Route path="/bench/:id" element={<BenchPage />} />
            <Route path="/datasets" element={<DatasetList />} />
            <Route path="/datasets/:id" element={<DatasetPage />} />
            <Route path="/flows" element={<FlowList />} />
            <Route path="/flows/:id" element={<FlowPage />} />
            <Route path="/flows/:id/publish" element={<PublishPage />} />
            <Route path="/flows/:id/triggers" element={<TriggersPage />} />
            <Route path="/flows/:id/callers" element={<CallersPage />} />
            <Route path="/pages" element={<AskPageList />} />
            <Route path="/pages/:id" element={<PersonPage />} />
            <Route path="/runs" element={<RunList />} />
            <Route path="/runs/:id" element={<RunPage />} />
            <Route path="/runs/:id/correct" element={<CorrectPage />} />
            <Route path="/records" element={<FindRecords />} />
            <Route path="/alerts" element={<AlertsPage />} />
            <Route path="/flows/:id/alerts" element={<FlowAlerts />} />
            <Route path="/endpoints/:id" element={<EndpointPage />} />
            <Route path="/code-tables/:id" element={<CodeTablePage />} />
            <Route path="/simulators/:id" element={<SimulatorPage />} />
            <Route path="/settings" element={<Settings me={me.data} />} />
            <Route
              path="*"
              element={<div className="page">This page does not exist. Start from the Desk.</div>}
            />
          </Routes>
        </Suspense>
      </Mishap>
    </Shell>
  );
}
