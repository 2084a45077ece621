/** The values of a line of a reply, by the names of its fields. */
export type AnswerLine = Record<string, string>;

const MOST = 8;

/** Returns the first lines of a reply: what stands at a path like `$reply/paper`, with the values in it. */
export function answerLines(reply: string, path: string): AnswerLine[] {
  const steps = path.split('/').slice(1);
  if (!reply || steps.length === 0) return [];
  const document = new DOMParser().parseFromString(reply, 'application/xml');
  const found = [...document.getElementsByTagName('*')].filter((element) => endsWith(element, steps));
  return found
    .slice(0, MOST)
    .map((line) =>
      Object.fromEntries([
        ...[...line.attributes]
          .filter((each) => !each.name.startsWith('xmlns'))
          .map((each) => [`@${each.localName}`, each.value]),
        ...[...line.children]
          .filter((each) => each.children.length === 0)
          .map((each) => [each.localName, each.textContent]),
      ]),
    );
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
