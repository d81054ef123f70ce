import { Button, Menu } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { type ComponentProps, useState } from "react";
import type { Refused } from "../api/client";
import type { TableEdit, TableFindings, TableView } from "../api/types";
import type { Draft } from "../draft/use-draft";
import { type Pasted, PastedSheet } from "./PastedSheet";
import { TableSheet } from "./TableSheet";

interface Props {
  view: TableView;
  draft: Draft<TableView["content"]>;
  editable: boolean;
  findings: TableFindings | undefined;
  trace: ComponentProps<typeof TableSheet>["trace"];
  chosenRow: string | null;
}

/** The rows of a table as a sheet, with what adds to it: by hand, or pasted from another sheet. */
export function TableRows({ view, draft, editable, findings, trace, chosenRow }: Props) {
  const [pasted, setPasted] = useState<Pasted | null>(null);
  const edit = (change: TableEdit) => draft.change({ tableEdit: change });

  function paste(at: { row: string; column: number }, sheet: string, skip = false) {
    const refused = (refusal: Refused) => {
      if (refusal.problem.code !== "tables.unreadable") return false;
      setPasted({ ...at, text: sheet, problems: refusal.problem.problems });
      return true;
    };
    const change = { kind: "set texts" as const, row: at.row, column: at.column, texts: [], sheet, skip };
    return draft.change({ tableEdit: change }, refused).then((saved) => {
      if (saved) setPasted(null);
    });
  }

  return (
    <>
      {pasted && (
        <PastedSheet
          pasted={pasted}
          onText={(text) => setPasted({ ...pasted, text })}
          onAgain={() => paste(pasted, pasted.text)}
          onRest={() => paste(pasted, pasted.text, true)}
          onDrop={() => setPasted(null)}
        />
      )}
      {view.rows.length === 0 && (
        <p className="soft">
          No row yet.{" "}
          {editable && "Add one, or paste a sheet: one row a line, the documents in the last column."}
        </p>
      )}
      <TableSheet
        view={view}
        findings={findings}
        editable={editable}
        trace={trace}
        chosenRow={chosenRow}
        onEdit={edit}
        onPaste={paste}
      />
      <div className="actions">
        {editable && (
          <>
            <Button
              variant="default"
              leftSection={<IconPlus size={15} />}
              onClick={() => edit({ kind: "add row", after: null, copy_of: null })}
            >
              New row
            </Button>
            <AddColumn view={view} onEdit={edit} />
            <Button
              variant="subtle"
              color="slate"
              onClick={() => setPasted({ row: "", column: 0, text: "", problems: [] })}
            >
              Paste a sheet
            </Button>
          </>
        )}
        <Button
          component="a"
          href={`/api/v1/documents/${view.document}/table.csv`}
          variant="subtle"
          color="slate"
        >
          Save as CSV
        </Button>
        {editable && (
          <span className="soft">
            Arrows move, typing writes, Enter goes down, Tab right, Ctrl+Enter adds a row, Delete means any.
          </span>
        )}
      </div>
    </>
  );
}

function AddColumn({ view, onEdit }: { view: TableView; onEdit: (edit: TableEdit) => void }) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="subtle" color="slate" leftSection={<IconPlus size={14} />}>
          Column
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        {view.more_columns.map((c) => (
          <Menu.Item key={c.heading} onClick={() => onEdit({ kind: "add column", column: c.column })}>
            {c.heading}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
