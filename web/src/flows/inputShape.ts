import type { Column, InputShape } from '../api/flow';

/** Returns a JSON Schema of an object, where the text is one; null where it is a sample, or nothing. */
export function schemaOf(text: string): Record<string, unknown> | null {
  try {
    const read = JSON.parse(text) as Record<string, unknown> | null;
    const described = read?.type === 'object' && typeof read.properties === 'object';
    return read && (read.$schema !== undefined || described) ? read : null;
  } catch {
    return null;
  }
}

/** Returns what a sample of a JSON document says of its shape; null where it is no object. */
export function shapeOf(sample: string): InputShape | null {
  let document: unknown;
  try {
    document = JSON.parse(sample);
  } catch {
    return null;
  }
  if (typeof document !== 'object' || document === null || Array.isArray(document)) return null;
  const columns: Column[] = [];
  const lists: string[] = [];
  collect(document as Record<string, unknown>, '', columns, lists);
  return { columns, lists, samples: [sample] };
}

function collect(of: Record<string, unknown>, above: string, columns: Column[], lists: string[]) {
  for (const [name, value] of Object.entries(of)) {
    const place = above ? `${above}/${elementName(name)}` : elementName(name);
    if (Array.isArray(value)) lists.push(place);
    const one: unknown = Array.isArray(value) ? value[0] : value;
    if (typeof one === 'object' && one !== null)
      collect(one as Record<string, unknown>, place, columns, lists);
    else columns.push({ name: place, label: name, type: typeOf(one), required: false });
  }
}

/** A member’s name as that of an element: what it cannot hold is written _xHHHH_. */
function elementName(member: string): string {
  const escaped = (c: string) => `_x${c.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`;
  return [...member]
    .map((c, i) => (/[\p{L}_]/u.test(c) || (i > 0 && /[\p{Nd}.-]/u.test(c)) ? c : escaped(c)))
    .join('');
}

function typeOf(value: unknown): Column['type'] {
  if (typeof value === 'number') return Number.isInteger(value) ? 'integer' : 'decimal';
  if (typeof value === 'boolean') return 'boolean';
  const text = typeof value === 'string' ? value : '';
  if (/^\d{4}-\d\d-\d\d$/.test(text)) return 'date';
  return /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d/.test(text) ? 'datetime' : 'string';
}
