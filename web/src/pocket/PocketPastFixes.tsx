import type { FieldEvent, PastFixView } from "../api/types";
import { PastFixList } from "../ui/PastFixList";
import type { CarriedOrder } from "./carried-order";
import { now } from "./outbox";
import "../ui/pocket-step.css";
import "./pocket.css";

/** What solved jobs like this one, from what was taken along; a mark says whether it was so here, too. */
export function PocketPastFixes({
  page,
  record,
  onSolved,
}: {
  page: CarriedOrder;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  onSolved?: (fix: PastFixView) => void;
}) {
  if (page.pastFixes.length === 0) return null;
  const marked = (fix: PastFixView) =>
    page.job.beside.fixes.find((mark) => mark.cause === fix.cause && mark.remedy === fix.remedy);
  async function mark(fix: PastFixView, helped: boolean) {
    const { cause, remedy } = fix;
    const at = now();
    const events: FieldEvent[] = [{ kind: "fix marked", at, cause, remedy, helped }];
    if (helped) events.push({ kind: "coded", at, cause, remedy });
    if ((await record(...events)) && helped) onSolved?.(fix);
  }
  const onSite = page.line.state === "On site";
  return (
    <section aria-label="Past fixes">
      <h2>Past fixes</h2>
      <PastFixList
        fixes={page.pastFixes}
        linked={(order) => order}
        act={
          onSite
            ? (fix) => (
                <fieldset className="mark-on-scale" aria-label={`${fix.cause_label}: was it so here?`}>
                  <button
                    type="button"
                    className="pchoice"
                    aria-pressed={marked(fix)?.helped === true}
                    onClick={() => mark(fix, true)}
                  >
                    This solved it
                  </button>
                  <button
                    type="button"
                    className="pchoice"
                    aria-pressed={marked(fix)?.helped === false}
                    onClick={() => mark(fix, false)}
                  >
                    Not it
                  </button>
                </fieldset>
              )
            : undefined
        }
      />
    </section>
  );
}
