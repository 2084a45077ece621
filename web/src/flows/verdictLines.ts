/** The values of a line of a reply, by the names of its fields. */
export type AnswerLine = Record<string, string>;

const MOST = 5;

/**
 * Returns lines of a reply with the values in them: what stands at a path like `$reply/paper`. Those that say something
 * else than the ones before come first.
 */
export function answerLines(reply: string, path: string): AnswerLine[] {
  const steps = path.split('/').slice(1);
  if (!reply || steps.length === 0) return [];
  const document = new DOMParser().parseFromString(reply, 'application/xml');
  return telling(
    [...document.getElementsByTagName('*')].filter((element) => endsWith(element, steps)).map(valuesOf),
  );
}

function valuesOf(line: Element): AnswerLine {
  const attributes = [...line.attributes]
    .filter((each) => !each.name.startsWith('xmlns'))
    .map((each) => [`@${each.localName}`, each.value]);
  const fields = [...line.children]
    .filter((each) => each.children.length === 0)
    .map((each) => [each.localName, each.textContent]);
  return Object.fromEntries([...attributes, ...fields]) as AnswerLine;
}

/** Lines differ by the fields that have few values: an outcome, a code, not a number of their own. */
function telling(lines: AnswerLine[]): AnswerLine[] {
  const values = (field: string) => new Set(lines.map((line) => line[field])).size;
  const fields = [...new Set(lines.flatMap((line) => Object.keys(line)))].filter(
    (field) => values(field) <= Math.max(2, lines.length / 4),
  );
  const seen = new Set<string>();
  const first = lines.filter((line) => {
    const says = fields.map((field) => line[field]).join('\n');
    return !seen.has(says) && seen.add(says);
  });
  return [...first, ...lines.filter((line) => !first.includes(line))].slice(0, MOST);
}

/** Tells whether the names from an element upwards are the steps of a path, from its end. */
function endsWith(element: Element, steps: string[]): boolean {
  let at: Element | null = element;
  for (const step of [...steps].reverse()) {
    if (at?.localName !== step) return false;
    at = at.parentElement;
  }
  return true;
}
