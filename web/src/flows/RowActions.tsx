import { Dropdown } from 'antd';
import { type CallStage as Call, freeId } from '../api/flow';
import type { SheetRow } from '../api/types';
import { type MessageAt, PickMenu } from '../shared/PickMenu';
import { withoutDocument } from './LearnDocument';
import { repicked, withChosen, withNextRow, withoutFilledRow } from './pickFills';

/** What can be done with a row of a request beside filling it: types and branches picked, lists, documents. */
export function RowActions({
  row,
  stage,
  rows,
  at,
  contract,
  focused,
  onChange,
  onFocus,
  onLearn,
}: {
  row: SheetRow;
  stage: Call;
  rows: SheetRow[];
  at: MessageAt;
  contract: number | undefined;
  focused: boolean;
  onChange: (stage: Call) => void;
  onFocus: (path: string) => void;
  onLearn: () => void;
}) {
  const chosen = stage.fills.some((f) => f.pick && f.target === row.path);
  const filled = stage.fills.some((f) => f.target === row.path);
  const change = (fills: Call['fills']) => onChange({ ...stage, fills });
  return (
    <>
      {(row.typeChoices > 0 || row.elementChoices > 1) && contract !== undefined && (
        <PickMenu
          contract={contract}
          at={at}
          row={row}
          onPick={(path) => {
            change(repicked(stage.fills, row, path));
            onFocus(path);
          }}
        />
      )}
      {focused && row.picked && contract !== undefined && (
        <span title="another type for other records; give each its condition" className="row tight">
          or{' '}
          <PickMenu
            contract={contract}
            at={at}
            row={{ ...row, picked: undefined, path: row.declared, mustPick: false }}
            onPick={(path) => {
              if (!stage.fills.some((f) => f.target === path))
                change([...stage.fills, { id: freeId(stage.fills, 'q'), target: path, pick: true }]);
              onFocus(path);
            }}
          />
        </span>
      )}
      {row.document && <span className="chip">{row.document.toUpperCase()}</span>}
      {focused && row.document && (
        <button
          type="button"
          className="linkish"
          onClick={() => onChange(withoutDocument(stage, 'request', row.path))}
        >
          as text again
        </button>
      )}
      {focused && !row.document && !filled && holdsDocument(row) && (
        <button type="button" className="linkish rigid" onClick={() => onLearn()}>
          a document …
        </button>
      )}
      {row.choice && chosen && <span className="chip fine">chosen</span>}
      {focused && row.choice && !chosen && (
        <button type="button" className="linkish" onClick={() => change(withChosen(stage.fills, row, rows))}>
          this one
        </button>
      )}
      {!filled && isSignature(row) && (
        <Dropdown
          trigger={['click']}
          menu={{
            items: signable(rows).map((path) => ({ key: path, label: `over ${localName(path)}` })),
            onClick: ({ key }) => {
              const id = freeId(stage.fills, 'q');
              change([...stage.fills, { id, target: row.path, signature: { over: key } }]);
            },
          }}
        >
          <button type="button" className="linkish rigid" title="an XML signature over an element with an Id">
            sign …
          </button>
        </Dropdown>
      )}
      {focused && row.next && (
        <button
          type="button"
          className="linkish"
          onClick={() => {
            change(withNextRow(stage.fills, row));
            onFocus(row.next ?? row.path);
          }}
          title="add another, with a source of its own"
        >
          another
        </button>
      )}
      {focused && row.occurrence > 1 && (
        <button type="button" className="linkish" onClick={() => change(withoutFilledRow(stage.fills, row))}>
          remove
        </button>
      )}
    </>
  );
}

/** Tells whether a row is an element Signature of XML Signature. */
function isSignature(row: SheetRow): boolean {
  return row.path.endsWith('{http://www.w3.org/2000/09/xmldsig#}Signature');
}

/** Returns the elements that can be signed: those with an attribute they are referred to by. */
function signable(rows: SheetRow[]): string[] {
  return rows
    .filter((r) => /\/@(Id|ID|id)$/.test(r.path) && !r.path.includes('xmldsig#'))
    .map((r) => r.path.slice(0, r.path.lastIndexOf('/@')));
}

function localName(path: string): string {
  return path.slice(path.lastIndexOf('}') + 1);
}

/** Tells whether a document can stand in a field: in a text, in base64, or where any element may stand. */
function holdsDocument(row: SheetRow): boolean {
  return row.kind === 'any' || (row.leaf && row.kind === 'element' && /^(string|base64|any)/.test(row.type));
}
