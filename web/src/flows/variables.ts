import type { Fill, FlowFile, Lane, NamedValue, Rule, Stage } from '../api/flow';
import { allStages, withBlocks } from '../api/outline';

/** Which of a stage's variables: what it makes, a Split's item or what is gathered, a Batch or its verdict. */
export type Which = 'as' | 'item' | 'gather' | 'batch' | 'verdict';

function nameOf(stage: Stage | undefined, which: Which): string | undefined {
  if (stage?.verb === 'Batch') return which === 'batch' ? stage.batch : stage.verdict?.as;
  if (stage?.verb === 'Split') return which === 'item' ? stage.item : stage.gather?.as;
  return stage && 'as' in stage ? stage.as : undefined;
}

/** Returns the file with a variable of a stage under another name, everywhere it is used. */
export function withVariable(file: FlowFile, stageId: string, to: string, which: Which = 'as'): FlowFile {
  const from = nameOf(
    allStages(file).find((s) => s.id === stageId),
    which,
  );
  if (!from || from === to) return file;
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
    each: f.each && {
      ...f.each,
      where: swap(f.each.where),
      order: f.each.order?.map((o) => ({ ...o, by: swap(o.by) })),
    },
    lookUp: f.lookUp && { ...f.lookUp, on: swap(f.lookUp.on) },
    file: f.file && { ...f.file, name: swap(f.file.name) },
    when: swap(f.when),
  });
  const value = (v: NamedValue): NamedValue => ({ ...v, of: swap(v.of) });
  const script = (text: string | undefined) =>
    swap(
      text?.replace(
        /(<xsl:param\s+name=)(["'])([^"']+)\2/g,
        (all, start: string, quote: string, name: string) =>
          name === from ? start + quote + to + quote : all,
      ),
    );
  const rule = (r: Rule): Rule => ({
    ...r,
    when: swap(r.when),
    fills: r.fills?.map(fill),
    outcomes: r.outcomes && {
      done: swap(r.outcomes.done),
      notDone: swap(r.outcomes.notDone),
      conflicting: swap(r.outcomes.conflicting),
    },
  });
  const lane = (its: Lane | undefined): Lane | undefined => its && { ...its, rules: its.rules.map(rule) };
  const stage = (s: Stage): Stage => {
    const next = { ...s, lane: lane(s.lane) } as Stage;
    if (!next.lane) delete next.lane;
    if ('as' in next && next.id === stageId) next.as = to;
    if ('fills' in next && next.fills) next.fills = next.fills.map(fill);
    if ('rows' in next) next.rows = swap(next.rows);
    if ('groups' in next && next.groups)
      next.groups = next.groups.map((g) => ({ ...g, repeat: swap(g.repeat) }));
    switch (next.verb) {
      case 'Read':
        return {
          ...next,
          key: swap(next.key),
          from: next.from && {
            ...next.from,
            rows: swap(next.from.rows),
            watermark: swap(next.from.watermark),
          },
          carry: next.carry && { ...next.carry, values: next.carry.values.map(value) },
        };
      case 'Filter':
        return { ...next, when: swap(next.when) };
      case 'Look up':
        return { ...next, key: swap(next.key) };
      case 'Answer':
        return { ...next, status: swap(next.status) };
      case 'Batch': {
        const its = next.id === stageId;
        const { verdict } = next;
        return {
          ...next,
          by: swap(next.by),
          batch: its && which === 'batch' ? to : next.batch,
          verdict: verdict && {
            ...verdict,
            as: its && which === 'verdict' ? to : verdict.as,
            lines: swap(verdict.lines),
            itemKey: swap(
              verdict.itemKey?.replace(/\$item\/([\p{L}_][\p{L}\p{N}_.-]*)/gu, (all, name) =>
                name === from ? `$item/${to}` : all,
              ),
            ),
            lineKey: swap(verdict.lineKey),
            accepted: swap(verdict.accepted),
            refused: swap(verdict.refused),
            reason: swap(verdict.reason),
          },
        };
      }
      case 'Split': {
        const its = next.id === stageId;
        return {
          ...next,
          over: swap(next.over),
          item: its && which === 'item' ? to : next.item,
          gather: next.gather && {
            ...next.gather,
            as: its && which === 'gather' ? to : next.gather.as,
            fills: next.gather.fills?.map(fill),
            groups: next.gather.groups?.map((g) => ({ ...g, repeat: swap(g.repeat) })),
          },
        };
      }
      case 'Branch':
        return { ...next, ways: next.ways.map((w) => ({ ...w, when: swap(w.when) })) };
      case 'Map':
        return {
          ...next,
          text: next.language === 'xslt' ? script(next.text) : swap(next.text),
          input: next.input === from ? to : next.input,
        };
      case 'Call':
        return {
          ...next,
          pages: next.pages && {
            ...next.pages,
            rows: swap(next.pages.rows),
            next: swap(next.pages.next),
            until: swap(next.pages.until),
          },
          delivery: {
            ...next.delivery,
            failedWhen: next.delivery.failedWhen.map((c) => ({ ...c, expression: swap(c.expression) })),
          },
        };
      default:
        return next;
    }
  };
  const changed = withBlocks(file, (stages) => stages.map(stage));
  if (changed.after?.sums) changed.after = { ...changed.after, sums: changed.after.sums.map(value) };
  return changed.lane ? { ...changed, lane: lane(changed.lane) } : changed;
}
