import type { Fill, FlowFile, Stage, WriteStage } from '../api/flow';

/** Returns the file with the variable of a stage under another name, everywhere it is used. */
export function withVariable(file: FlowFile, stageId: string, to: string): FlowFile {
  const named = file.stages.find((s) => s.id === stageId);
  if (!named || !('as' in named) || named.as === to) return file;
  const from = named.as;
  const use = new RegExp(`\\$${from.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}(?![\\p{L}\\p{N}_.-])`, 'gu');
  const swap = <T extends string | undefined>(text: T): T => text?.replace(use, () => `$${to}`) as T;
  const fill = (f: Fill): Fill => ({
    ...f,
    wire: swap(f.wire),
    expression: swap(f.expression),
    join: f.join && { ...f.join, parts: f.join.parts.map((p) => (p.startsWith('"') ? p : swap(p))) },
    copy: swap(f.copy),
    key: swap(f.key),
    repeat: swap(f.repeat),
    each: f.each && { ...f.each, where: swap(f.each.where), order: f.each.order?.map((o) => ({ ...o, by: swap(o.by) })) },
    lookUp: f.lookUp && { ...f.lookUp, on: swap(f.lookUp.on) },
    file: f.file && { ...f.file, name: swap(f.file.name) },
    when: swap(f.when),
  });
  const write = (s: WriteStage): WriteStage => ({ ...s, rows: swap(s.rows), fills: s.fills.map(fill), groups: s.groups?.map((g) => ({ ...g, repeat: swap(g.repeat) })) });
  const stage = (s: Stage): Stage => {
    const own = s.id === stageId ? { as: to } : {};
    if (s.verb === 'Read') return { ...s, key: swap(s.key), ...own };
    if (s.verb === 'Map') {
      const text = s.language === 'xslt' ? s.text.replace(/(<xsl:param\s+name=)(["'])([^"']+)\2/g, (all, start: string, quote: string, name: string) => (name === from ? start + quote + to + quote : all)) : s.text;
      return { ...s, text: swap(text), input: s.input === from ? to : s.input, ...own };
    }
    if (s.verb === 'Write') return write(s);
    return {
      ...s,
      fills: s.fills.map(fill),
      delivery: { ...s.delivery, failedWhen: s.delivery.failedWhen.map((c) => ({ ...c, expression: swap(c.expression) })) },
      rejects: s.rejects && write(s.rejects),
      ...own,
    };
  };
  return { ...file, stages: file.stages.map(stage) };
}
