import { Drawer } from "@mantine/core";
import { Link } from "react-router";
import { useActs, useHistory } from "../api/queries";
import { dayTime, dayYear } from "../ui/format";
import type { RevisionHead } from "./revision-head";

/** The revisions of a document, what was done to them, and the edits of the one being worked on. */
export function HistoryDrawer({
  base,
  plan,
  shown,
  onClose,
}: {
  /** Where two revisions are compared. */
  base: string;
  plan: RevisionHead;
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
                {line.released_by &&
                  `, ${line.state === "In review" ? "approved" : "released"} by ${line.released_by}`}
                {line.effective_on && `, takes effect ${dayYear(line.effective_on)}`}
                <div className="soft">
                  {dayTime(line.released_at ?? line.changed_at)}
                  {line.note && `. ${line.note}`}
                </div>
              </td>
              <td>
                {all[i + 1] && (
                  <Link to={`${base}?older=${all[i + 1]?.letter}&newer=${line.letter}`}>
                    Compare with {all[i + 1]?.letter}
                  </Link>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className="far">What was done</h2>
      {shown && <Acts plan={plan} />}
      <h2 className="far">Edits of {plan.letter}</h2>
      {shown && <Edits plan={plan} />}
    </Drawer>
  );
}

function Acts({ plan }: { plan: RevisionHead }) {
  const acts = useActs(plan.document);
  if (acts.data?.length === 0) return <p className="soft">It came with the library.</p>;
  return (
    <table className="rows">
      <tbody>
        {(acts.data ?? []).map((act) => (
          <tr key={act.at + act.act}>
            <td className="soft unbroken">{dayTime(act.at)}</td>
            <td>
              {act.by} {act.act} {act.letter}
              {act.note && `: ${act.note}`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Edits({ plan }: { plan: RevisionHead }) {
  const edits = useHistory(plan.document, plan.letter);
  if (edits.data?.length === 0)
    return <p className="soft">It came with the library; no edits were made here.</p>;
  return (
    <table className="rows">
      <tbody>
        {(edits.data ?? []).map((edit) => (
          <tr key={edit.version}>
            <td className="soft unbroken">{dayTime(edit.at)}</td>
            <td>
              {edit.person} {edit.summary}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
