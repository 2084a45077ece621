import { Fragment } from 'react';
import css from './Shell.module.css';

const KEYS: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl K', 'find anything'],
      ['?', 'this list'],
    ],
  ],
  [
    'In a message sheet',
    [
      ['↑ ↓', 'move'],
      ['→ ←', 'expand, collapse'],
      ['+ −', 'one level more, one less'],
      ['/', 'find a field'],
    ],
  ],
  [
    'On a contract',
    [
      ['T', 'try the operation'],
      ['M', 'simulate the service'],
      ['B', 'build a flow'],
    ],
  ],
  ['On the bench', [['Ctrl Enter', 'send']]],
  [
    'On an endpoint',
    [
      ['Ctrl Enter', 'test it'],
      ['Ctrl S', 'save'],
    ],
  ],
  ['On a simulator', [['A', 'add a rule']]],
  [
    'On the flow page',
    [
      ['↑ ↓', 'move in the fill sheet'],
      ['Enter', 'edit the fill; Enter keeps, Esc leaves'],
      ['Tab', 'accept the suggestion in this row and go to the next one'],
      ['S', 'suggest fills'],
      ['X', 'dismiss the suggestion'],
      ['F', 'apply the fix offered for this row'],
      ['O', 'format, look-up, default and condition of this fill'],
      ['Ctrl C, Ctrl V', 'copy a fill, paste it into another row'],
      ['Delete', 'clear the fill'],
      ['/', 'find a field'],
      ['Esc', 'leave a field, so that the keys work again'],
      ['[ ]', 'previous, next sample record'],
      ['Ctrl Enter', 'call the service for the sample'],
      ['1 2 3, Alt ← →', 'go to a stage, to the line before or after'],
      ['A', 'add a stage: into the way or rule that is chosen, else behind the stage'],
      ['E', 'go into the fields of the stage; Tab to the next, Esc leaves'],
      ['C', 'add a column to a record'],
      ['P', 'show a call’s request, its reply, its delivery'],
      ['Alt ↑ ↓', 'move the stage, into and out of ways too'],
      ['D', 'duplicate the stage'],
      ['Shift C, Shift V', 'copy the stage with all within it, paste it in any flow'],
      ['Shift Delete', 'remove the stage'],
      ['Ctrl Z, Ctrl Y', 'undo, redo'],
      ['R', 'run'],
    ],
  ],
];

export function KeyList() {
  return (
    <div className={css.keys}>
      {KEYS.map(([title, keys]) => (
        <Fragment key={title}>
          <h3>{title}</h3>
          {keys.map(([key, what]) => (
            <Fragment key={key}>
              <span>
                <kbd>{key}</kbd>
              </span>
              <span>{what}</span>
            </Fragment>
          ))}
        </Fragment>
      ))}
    </div>
  );
}
