import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import type { CommentInTone, Share } from "../api/types";
import { Figure } from "../ui/Figure";
import { count, dayYear, percent } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import type { Choices } from "./choices";
import "./together.css";

/** Comments that are shown at once. */
const FIRST = 6;
const TONES: Record<CommentInTone["tone"], string> = { poor: "poor", even: "neither", good: "good" };

/** What the customers of the chosen jobs said: ratings, and their comments by tone, the poorest first. */
export function CustomersSaid({ incident, query }: { incident: string; query: Choices }) {
  const found = useQuery({
    queryKey: ["evidence", incident, "customers", query],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/jobs-together/customers", {
          params: { path: { document: incident }, query },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const [all, setAll] = useState(false);
  const said = found.data;
  if (!said) return <Trouble error={found.error} />;
  const nRated = said.by_rating.reduce((all, n) => all + n, 0);
  const top = Math.max(1, ...said.by_rating);
  return (
    <section aria-label="What customers said">
      <h2>What customers said</h2>
      {nRated + said.n_comments === 0 ? (
        <p className="soft">Nothing yet of {count(said.n_jobs, "job")}.</p>
      ) : (
        <>
          <div className="figures">
            <Figure
              label="Rating, mean of 5"
              value={said.mean_rating === null ? "–" : said.mean_rating.toFixed(1)}
              beside={`${nRated} of ${count(said.n_jobs, "job")} rated`}
            />
            <ToneFigure label="Comments of poor tone" share={said.poor} />
            <ToneFigure label="Comments of good tone" share={said.good} />
          </div>
          <div className="ratings" role="img" aria-label={ratingsInWords(said.by_rating)}>
            {said.by_rating.map((n, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: the place is the rating.
              <div key={i} className="facet-bar">
                <span className="facet-label">{i + 1} of 5</span>
                <span className="facet-room">
                  <span className="facet-length" style={{ width: `${(100 * n) / top}%` }} />
                </span>
                <span className="num">{n}</span>
              </div>
            ))}
          </div>
          {said.comments.length > 0 && (
            <table className="rows">
              <thead>
                <tr>
                  <th>Order</th>
                  <th>Said</th>
                  <th>Rating</th>
                  <th>Tone</th>
                  <th>Comment</th>
                </tr>
              </thead>
              <tbody>
                {said.comments.slice(0, all ? undefined : FIRST).map(({ words, tone }) => (
                  <tr key={words.order}>
                    <td className="mono">
                      <Link to={`/review/jobs/${words.order}`}>{words.order}</Link>
                    </td>
                    <td>{dayYear(words.at)}</td>
                    <td>{words.rating ?? "–"}</td>
                    <td>{TONES[tone]}</td>
                    <td>“{words.comment}”</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {said.comments.length > FIRST && (
            <p>
              <button type="button" className="linklike" aria-expanded={all} onClick={() => setAll(!all)}>
                {all ? "Show fewer" : `Show ${said.comments.length - FIRST} more`}
              </button>
            </p>
          )}
          <p className="soft" style={{ fontSize: 13 }}>
            {said.n_comments > said.comments.length &&
              `The ${said.comments.length} poorest of ${said.n_comments} comments. `}
            Tone is by a published lexicon of English words; it does not understand irony, and a comment in
            another language has none.
          </p>
        </>
      )}
    </section>
  );
}

function ToneFigure({ label, share }: { label: string; share: Share }) {
  const range = `${percent(share.low)}–${percent(share.high)}, ${count(share.n_total, "comment")}`;
  return (
    <Figure
      label={label}
      value={share.share === null ? "–" : `${percent(share.share)} %`}
      beside={share.share === null ? "no comment yet" : range}
    />
  );
}

const ratingsInWords = (byRating: number[]) =>
  `Ratings: ${byRating.map((n, i) => `${n} of ${i + 1}`).join(", ")}`;
