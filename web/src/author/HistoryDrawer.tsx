import { Drawer } from "@mantine/core";
import { Link } from "react-router";
import { useHistory } from "../api/queries";
import type { PlanView } from "../api/types";
import { dayTime } from "../ui/format";

/** The revisions of a plan, and the edits of the one being worked on. */
export function HistoryDrawer({
  incident,
  plan,
  shown,
  onClose,
}: {
  incident: string;
  plan: PlanView;
  shown: boolean;
  onClose: () => void;
}) {
  return (
    <Drawer opened={shown} onClose={onClose} title={`${plan.document}: revisions`} position="right" size="md">
      <table className="rows">
        <tbody>
          {[...plan.history].reverse().map((line, i, all) => (
            <tr key={line.letter}>
              <td className="mono">{line.letter}</td>
              <td>
                {line.state}
                {line.released_by && `, released by ${line.released_by}`}
                <div className="soft">
                  {dayTime(line.released_at ?? line.changed_at)}
                  {line.note && `. ${line.note}`}
                </div>
              </td>
              <td>
                {all[i + 1] && (
                  <Link
                    to={`/refine/${incident}/${plan.document}?older=${all[i + 1]?.letter}&newer=${line.letter}`}
                  >
                    Compare with {all[i + 1]?.letter}
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 style={{ marginTop: 20 }}>Edits of {plan.letter}</h2>
      {shown && <Edits plan={plan} />}
    </Drawer>
  );
}

function Edits({ plan }: { plan: PlanView }) {
  const edits = useHistory(plan.document, plan.letter);
  if (edits.data?.length === 0)
    return <p className="soft">It came with the library; no edits were made here.</p>;
  return (
    <table className="rows">
      <tbody>
        {(edits.data ?? []).map((edit) => (
          <tr key={edit.version}>
            <td className="soft" style={{ whiteSpace: "nowrap" }}>
              {dayTime(edit.at)}
            </td>
            <td>
              {edit.person} {edit.summary}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
