import type { SubtreeDifferences } from '../api/types';

/** How a target and a source compare before the one is filled whole from the other. */
export function Differences({ found, from }: { found: SubtreeDifferences; from: string }) {
  const list = (title: string, names: string[], bad = false) =>
    names.length > 0 && (
      <div className="gap-below-s">
        <span className={bad ? 'bad' : 'dim'}>{title} </span>
        <span className="mono small">
          {names.slice(0, 24).join(', ')}
          {names.length > 24 && ` and ${names.length - 24} more`}
        </span>
      </div>
    );
  return (
    <div>
      {list(
        `${found.same.length} ${found.same.length === 1 ? 'field is' : 'fields are'} filled from ${from}:`,
        found.same,
      )}
      {list('required, and not there:', found.missing, true)}
      {list('optional, and not there:', found.onlyTarget)}
      {list('of the source, with no place to go:', found.onlySource)}
      {found.same.length === 0 && <p className="bad">No field has the same name; nothing would be filled.</p>}
      <p className="dim flush-below">A field you fill yourself keeps its own fill.</p>
    </div>
  );
}
