import { Select } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, need } from "../api/client";
import type { JobsCompared, KeptViewLine } from "../api/types";
import { count, number, percent } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import type { Choices } from "./choices";

/** How the address says what is compared with: all jobs that are not chosen, or a view by its name. */
const REST = "rest";
const VIEW = "view:";

/** The chosen jobs against those of a kept view, or all others: what differs once jobs alike are compared. */
export function Compared({
  incident,
  query,
  views,
  against,
  onAgainst,
}: {
  incident: string;
  query: Choices;
  views: readonly KeptViewLine[];
  against: string | null;
  onAgainst: (against: string | null) => void;
}) {
  const view = against?.startsWith(VIEW) ? against.slice(VIEW.length) : "";
  const found = useQuery({
    queryKey: ["compared", incident, query, against],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/jobs-together/compared", {
          params: {
            path: { document: incident },
            query: { ...query, against: view },
          },
        }),
      ),
    enabled: against !== null,
    placeholderData: keepPreviousData,
  });
  const other = view ? `“${view}”` : "All other jobs";
  return (
    <section aria-label="Compared">
      <div className="compared-head">
        <h2 className="compared-title">These jobs against</h2>
        <Select
          aria-label="Against"
          placeholder="nothing yet"
          clearable
          w={260}
          data={[
            { value: REST, label: "All other jobs" },
            ...views.map(({ name }) => ({ value: `${VIEW}${name}`, label: name })),
          ]}
          value={against}
          onChange={onAgainst}
        />
      </div>
      <Trouble error={found.error} />
      {against !== null && found.data && <Table compared={found.data} other={other} />}
    </section>
  );
}

function Table({ compared, other }: { compared: JobsCompared; other: string }) {
  const { minutes, minutes_sentence, n_both } = compared;
  return (
    <>
      <table className="rows">
        <thead>
          <tr>
            <th>Measure</th>
            <th>These</th>
            <th>{other}</th>
            <th>Jobs alike compared</th>
          </tr>
        </thead>
        <tbody>
          {compared.shares.map(({ measure, first, second, sentence }) => (
            <tr key={measure}>
              <td>{measure.charAt(0).toUpperCase() + measure.slice(1)}</td>
              <td>{shareWords(first)}</td>
              <td>{shareWords(second)}</td>
              <td>{sentence}</td>
            </tr>
          ))}
          <tr>
            <td>Minutes on site</td>
            <td>{minutes && `${count(minutes.n_first, "job")} alike`}</td>
            <td>{minutes && `${count(minutes.n_second, "job")} alike`}</td>
            <td>{minutes_sentence}</td>
          </tr>
        </tbody>
      </table>
      <p className="soft">
        {compared.alike.length > 0
          ? `Jobs of the same ${list(compared.alike)} are compared, so that a different mix does not pass for a difference; `
          : "Nothing is held fixed but "}
        {compared.alike.length > 0 ? "for minutes, who went too" : "who went, for minutes"}.
        {n_both > 0 && ` ${count(n_both, "job")} of both count among these.`}
      </p>
    </>
  );
}

function shareWords(share: JobsCompared["shares"][number]["first"]): string {
  if (share.share === null) return "no jobs";
  return `${percent(share.share)} % (${percent(share.low)}–${percent(share.high)}) of ${number(share.n_total)}`;
}

function list(words: readonly string[]): string {
  return words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;
}
