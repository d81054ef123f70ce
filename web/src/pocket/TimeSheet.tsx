import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { dayYear, minutes, number, time } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { orKept } from "./day";
import "./pocket.css";

/** The last two weeks, added up by themselves; a time that is wrong is put right on its order. */
export function TimeSheet({ person }: { person: string }) {
  const navigate = useNavigate();
  const found = useQuery({
    queryKey: ["time-sheet", person],
    queryFn: () => orKept(`time-sheet ${person}`, () => need(client.GET("/api/v1/pocket/time-sheet"))),
    networkMode: "always",
  });
  return (
    <div className="pocket">
      <header className="pocket-bar">
        <div className="pocket-bar-row">
          <button type="button" className="pocket-quiet light" onClick={() => navigate("/pocket")}>
            ‹ Your orders
          </button>
        </div>
      </header>
      <main className="pocket-body">
        <h1>Your times</h1>
        <Trouble error={found.error} />
        {found.data?.length === 0 && <p>You set off to no order in the last two weeks.</p>}
        {found.data?.map((day) => (
          <section key={day.day} aria-label={dayWords(day.day)} className="time-day">
            <h2>{dayWords(day.day)}</h2>
            <p>
              <b>{minutes(day.on_site)}</b> on site, {minutes(day.travel)} on the way
              {day.km > 0 && `, ${number(day.km)} km between sites`}
              {day.breaks > 0 && `, ${minutes(day.breaks)} break`}
            </p>
            <ul>
              {day.lines.map((line) => (
                <li key={`${line.order} ${line.headed_out_at}`}>
                  {line.order}, {line.site}: {time(line.headed_out_at)}
                  {line.arrived_at && ` – ${time(line.arrived_at)}`}
                  {line.left_at ? ` – ${time(line.left_at)}` : ", not left yet"}
                  {line.corrected && ", corrected"}
                </li>
              ))}
            </ul>
          </section>
        ))}
        <p className="soft">
          From heading out, arriving and leaving, without the breaks; kilometres in a straight line. A wrong
          time is corrected on its order while you are on site, under More, Times and breaks.
        </p>
      </main>
      <footer className="pocket-foot" />
    </div>
  );
}

/** A day as it is written, whatever zone the phone is in. */
const dayWords = (day: string) => dayYear(`${day}T12:00`);
