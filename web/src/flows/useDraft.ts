import { useCallback, useEffect, useRef, useState } from 'react';
import { api, ApiProblem } from '../api/client';
import type { Flow, FlowFile } from '../api/flow';
import { useLatest } from '../shared/useLatest';

const PAUSE = 600;
const MOST_PAUSE = 30_000;

export type Saving = 'saved' | 'saving' | 'changed' | 'failed' | 'conflict';

/**
 * The flow as it is edited: saved by itself shortly after each change. Undo goes back through everything done here and
 * then through the revisions saved before.
 */
export function useDraft(flow: Flow, onSaved: (flow: Flow) => void) {
  const [history, setHistory] = useState<{ files: FlowFile[]; at: number }>({ files: [flow.file], at: 0 });
  const [saving, setSaving] = useState<Saving>('saved');
  const [problem, setProblem] = useState<ApiProblem>();
  const revision = useRef(flow.revision);
  const [shownRevision, setShownRevision] = useState(flow.revision);
  const saved = useRef(flow.file);
  const busy = useRef(false);
  const oldest = useRef(flow.revision);
  const looking = useRef(false);
  const failures = useRef(0);
  const failed = useRef<ApiProblem>(undefined);
  const file = history.files[history.at];
  const latest = useLatest(file);

  const save = useCallback(async () => {
    if (busy.current || latest.current === saved.current) return;
    busy.current = true;
    setSaving('saving');
    const sent = latest.current;
    try {
      const done = await api.put<Flow>(`/flows/${flow.id}`, sent, { 'If-Match': `"${revision.current}"` });
      revision.current = done.revision;
      setShownRevision(done.revision);
      saved.current = sent;
      failures.current = 0;
      setProblem(undefined);
      setSaving(latest.current === sent ? 'saved' : 'changed');
      onSaved(done);
    } catch (e) {
      failures.current++;
      const told = e instanceof ApiProblem ? e : new ApiProblem(0, 'unknown', String(e), {});
      failed.current = told;
      setProblem(told);
      setSaving(told.code === 'changed-meanwhile' ? 'conflict' : 'failed');
    } finally {
      busy.current = false;
    }
  }, [flow.id, onSaved, latest]);

  useEffect(() => {
    if (saving === 'conflict') return;
    if (file === saved.current) {
      // undone and redone again: there is nothing to save any more
      if (saving === 'changed') setSaving('saved');
      return;
    }
    // a save that failed is seen until one goes well, and is tried again with pauses that grow
    setSaving((s) => (s === 'saving' || s === 'failed' ? s : 'changed'));
    const timer = setTimeout(() => void save(), Math.min(MOST_PAUSE, PAUSE * 2 ** failures.current));
    return () => clearTimeout(timer);
  }, [file, save, saving, problem]);

  /** Saves what is on the screen and returns its revision; throws what keeps it from being saved. */
  const settled = useCallback(async (): Promise<number> => {
    const until = Date.now() + MOST_PAUSE;
    while (latest.current !== saved.current) {
      if (busy.current) await new Promise((wait) => setTimeout(wait, 50));
      else await save();
      if (failures.current > 0 && !busy.current)
        throw failed.current ?? new Error('The flow could not be saved.');
      if (Date.now() > until) throw new Error('The flow is still being saved: try again in a moment.');
    }
    return revision.current;
  }, [save, latest]);

  const change = useCallback((edit: (file: FlowFile) => FlowFile) => {
    setHistory((h) => {
      const next = edit(h.files[h.at]);
      if (next === h.files[h.at]) return h;
      const files = [...h.files.slice(0, h.at + 1), next];
      return { files, at: files.length - 1 };
    });
  }, []);
  const start = history.at === 0;
  const undo = useCallback(async () => {
    if (!start) {
      setHistory((h) => ({ ...h, at: Math.max(0, h.at - 1) }));
      return;
    }
    if (looking.current) return;
    looking.current = true;
    let before: FlowFile | undefined;
    // a revision that says the same, as after an undo that was saved, is no step
    while (oldest.current > 1 && (!before || JSON.stringify(before) === JSON.stringify(latest.current))) {
      oldest.current -= 1;
      before = await api
        .get<FlowFile>(`/flows/${flow.id}/revisions/${oldest.current}`)
        .catch(() => undefined);
    }
    looking.current = false;
    const found = before;
    // what was edited meanwhile stays what is shown
    if (found) setHistory((h) => ({ files: [found, ...h.files], at: h.at === 0 ? 0 : h.at + 1 }));
  }, [start, flow.id, latest]);
  const redo = useCallback(
    () => setHistory((h) => ({ ...h, at: Math.min(h.files.length - 1, h.at + 1) })),
    [],
  );
  const overwrite = useCallback(() => {
    revision.current = Number(problem?.body.revision ?? revision.current);
    setSaving('changed');
    setProblem(undefined);
  }, [problem]);
  return { file, change, undo, redo, save, settled, saving, problem, overwrite, revision: shownRevision };
}
