import { Link } from 'react-router';
import type { Need } from '../api/types';
import css from './publish.module.css';

const STATES: Record<Need['state'], [string, string]> = {
  ready: ['there', 'fine'],
  tried: ['works', 'fine'],
  soon: ['look', 'caution'],
  missing: ['missing', 'failure'],
};

/** What a flow needs in an environment, what is missing first. */
export function NeedList({ needs }: { needs: Need[] }) {
  const order = ['missing', 'soon', 'ready', 'tried'];
  const sorted = [...needs].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
  return (
    <div role="list" aria-label="readiness">
      {sorted.map((n) => {
        const [word, look] = STATES[n.state];
        return (
          <div role="listitem" key={n.kind + n.name + n.message} className={css.need}>
            <span className="dim">{n.kind}</span>
            <span>
              <Link to={n.address} className="plain-link">
                {n.name}
              </Link>
              {n.message && <p className={n.state === 'missing' ? 'bad small' : 'dim small'}>{n.message}</p>}
            </span>
            <span>
              <span className={`chip ${look}`}>{word}</span>
            </span>
          </div>
        );
      })}
    </div>
  );
}
