import { Button, Progress, Select } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, need } from "../api/client";
import { useCache } from "../api/queries";
import { useChange } from "../api/use-change";
import { count, dayYear } from "../ui/format";
import { Trouble } from "../ui/Trouble";

const CHOICES = [
  { value: "4", label: "4 weeks" },
  { value: "8", label: "2 months" },
  { value: "13", label: "3 months" },
  { value: "26", label: "half a year" },
];
const ASKED_AGAIN_MS = 1_000;

/** In a demo: let weeks pass, in which calls come in and are carried out with the guidance in force by then. */
export function LetWeeksPass() {
  const cache = useCache();
  const [weeks, setWeeks] = useState("8");
  const passed = useQuery({
    queryKey: ["weeks"],
    queryFn: () => need(client.GET("/standins/weeks")),
    refetchInterval: (query) => (query.state.data?.is_passing ? ASKED_AGAIN_MS : false),
  });
  const pass = useChange(
    () => need(client.POST("/standins/weeks", { body: { weeks: Number(weeks) } })),
    [["weeks"]],
  );
  const told = passed.data;
  const isPassing = told?.is_passing ?? false;
  const was = useRef(false);
  // Once they have passed, nothing that was read before is so any more.
  useEffect(() => {
    if (was.current && !isPassing) void cache.invalidateQueries();
    was.current = isPassing;
  }, [isPassing, cache]);
  return (
    <section aria-label="Let weeks pass" id="weeks">
      <div className="actions" style={{ justifyContent: "flex-start", alignItems: "center", marginTop: 14 }}>
        <span className="soft">
          This is a demo{told && `, and it is ${dayYear(told.now)} in it`}. To see what a change brings:
        </span>
        <Select
          aria-label="How long"
          w={130}
          data={CHOICES}
          value={weeks}
          allowDeselect={false}
          disabled={isPassing}
          onChange={(value) => value && setWeeks(value)}
        />
        <Button variant="default" loading={pass.isPending} disabled={isPassing} onClick={() => pass.mutate()}>
          Let them pass
        </Button>
      </div>
      <Trouble error={passed.error ?? pass.error} />
      {told && told.n_calls > 0 && (
        <div role="status" className="under">
          {isPassing ? (
            <>
              <Progress
                value={(100 * (told.n_done + told.n_failed)) / told.n_calls}
                aria-label="Calls carried out"
                maw={420}
              />
              <p className="soft">
                {told.n_done} of {count(told.n_calls, "call")} carried out.
              </p>
            </>
          ) : (
            <p>
              {count(told.n_done, "call")} came in and {told.n_done === 1 ? "was" : "were"} carried out.
              {told.n_failed > 0 && ` ${told.n_failed} could not be, by the guidance in force.`}{" "}
              {told.trouble}
            </p>
          )}
        </div>
      )}
    </section>
  );
}
