import type { AskField } from '../api/types';

/** What was typed, by the names of fields. */
export type Typed = Record<string, string>;

const NUMBER = /^-?\d+(\.\d+)?$/;
const INTEGER = /^-?\d+$/;

/** What stands in the fields of a page at first. */
export function presets(fields: AskField[]): Typed {
  return Object.fromEntries(fields.map((f) => [f.name, f.preset ?? '']));
}

/** A decimal comma is a point to the flow. */
function number(text: string): string {
  return text.trim().replace(',', '.');
}

/** What is wrong with what was typed, by the names of fields. */
export function wrong(fields: AskField[], typed: Typed): Record<string, string> {
  const all: Record<string, string> = {};
  for (const f of fields) {
    const text = (typed[f.name] ?? '').trim();
    if (!text) {
      if (f.required) all[f.name] = 'is missing';
    } else if (f.type === 'integer' && !INTEGER.test(number(text))) {
      all[f.name] = 'is no whole number';
    } else if (f.type === 'decimal' && !NUMBER.test(number(text))) {
      all[f.name] = 'is no number';
    }
  }
  return all;
}

/** The record as JSON: numbers as they were typed, what is empty left out. */
export function json(fields: AskField[], typed: Typed): string {
  const members = fields.flatMap((f) => {
    const text = (typed[f.name] ?? '').trim();
    if (!text) return [];
    const name = JSON.stringify(f.name);
    if (f.type === 'integer' || f.type === 'decimal') {
      return [`${name}: ${number(text).replace(/^(-?)0+(?=\d)/, '$1')}`];
    }
    if (f.type === 'boolean') return [`${name}: ${text === 'true'}`];
    return [`${name}: ${JSON.stringify(text)}`];
  });
  return `{${members.join(', ')}}`;
}

/** The values of an answer by their places; what repeats is put together. */
export function flat(answer: unknown, place = ''): Record<string, string> {
  if (Array.isArray(answer)) {
    const all: Record<string, string> = {};
    for (const one of answer) {
      for (const [name, text] of Object.entries(flat(one, place))) {
        all[name] = all[name] === undefined ? text : `${all[name]}; ${text}`;
      }
    }
    return all;
  }
  if (answer !== null && typeof answer === 'object') {
    return Object.assign(
      {},
      ...Object.entries(answer).map(([name, value]) => flat(value, place ? `${place}/${name}` : name)),
    ) as Record<string, string>;
  }
  return answer === null || answer === undefined || answer === ''
    ? {}
    : { [place || 'answer']: String(answer) };
}

/** Splits what was pasted from a spreadsheet, or is CSV, into cells. */
export function cells(pasted: string): string[][] {
  const first = pasted.split('\n', 1)[0] ?? '';
  const by = first.includes('\t') ? '\t' : first.includes(';') ? ';' : ',';
  const rows: string[][] = [];
  let row: string[] = [];
  let cell = '';
  let quoted = false;
  const end = () => {
    row.push(cell);
    cell = '';
  };
  for (let i = 0; i < pasted.length; i++) {
    const c = pasted[i];
    if (quoted) {
      if (c === '"' && pasted[i + 1] === '"') {
        cell += '"';
        i++;
      } else if (c === '"') quoted = false;
      else cell += c;
    } else if (c === '"' && cell === '') quoted = true;
    else if (c === by) end();
    else if (c === '\n') {
      end();
      rows.push(row);
      row = [];
    } else if (c !== '\r') cell += c;
  }
  end();
  rows.push(row);
  return rows.filter((r) => r.some((text) => text.trim()));
}

/** The records that were pasted: by the heads of their columns where there are some, else in the fields' order. */
export function pastedRows(
  pasted: string,
  fields: AskField[],
): { rows: Typed[]; columns: (string | undefined)[] } {
  const all = cells(pasted);
  const shown = fields.filter((f) => !f.hidden);
  const named = (text: string) =>
    fields.find((f) => [f.name, f.label].some((n) => n.toLowerCase() === text.trim().toLowerCase()))?.name;
  const heads = (all[0] ?? []).map(named);
  const hasHeads =
    heads.length > 0 && heads.some(Boolean) && (all[0] ?? []).every((t) => !t.trim() || named(t));
  const width = Math.max(0, ...all.map((row) => row.length));
  const columns = Array.from({ length: width }, (_, i) => (hasHeads ? heads[i] : shown[i]?.name));
  const rows = (hasHeads ? all.slice(1) : all).map((row) => {
    const typed = presets(fields);
    row.forEach((text, i) => {
      const name = columns[i];
      if (name && text.trim()) typed[name] = text.trim();
    });
    return typed;
  });
  return { rows, columns };
}

/** CSV (RFC 4180), with a mark of its encoding for spreadsheets; a cell they would take for a formula is a text. */
export function csv(heads: string[], rows: string[][]): string {
  const cell = (text: string) => {
    const safe = /^[=+\-@\t\r]/.test(text) && !NUMBER.test(text) ? `'${text}` : text;
    return /[",;\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  return `\uFEFF${[heads, ...rows].map((row) => row.map(cell).join(',')).join('\r\n')}\r\n`;
}
