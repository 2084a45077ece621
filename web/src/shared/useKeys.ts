import { useEffect } from 'react';
import { useLatest } from './useLatest';

/** Tells whether a key press belongs to a field that is being typed into. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target as HTMLElement | null;
  const presses = (event.key === 'Enter' || event.key === ' ') && target?.closest('button, a, [role="tab"]');
  return (
    !!presses ||
    !!target?.closest(
      'input:not([type=radio]):not([type=checkbox]), textarea, select, [contenteditable="true"], .ant-modal',
    )
  );
}

/** Listens to keys while the component is shown; names are like "Ctrl+K", "ArrowDown", "?". */
export function useKeys(
  keys: Record<string, (event: KeyboardEvent) => unknown>,
  evenWhileTyping: string[] = [],
): void {
  const latest = useLatest({ keys, evenWhileTyping });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      const shift =
        event.shiftKey && event.key.length > 1
          ? 'Shift+'
          : event.shiftKey && /[a-z]/i.test(event.key)
            ? 'Shift+'
            : '';
      const name = `${event.ctrlKey || event.metaKey ? 'Ctrl+' : ''}${event.altKey ? 'Alt+' : ''}${shift}${key}`;
      const action = latest.current.keys[name];
      if (!action || (isTyping(event) && !latest.current.evenWhileTyping.includes(name))) return;
      // an action that has nothing to do says so, and the key keeps its usual meaning
      if (action(event) !== false) event.preventDefault();
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [latest]);
}
