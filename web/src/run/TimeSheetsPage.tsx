import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { count, dayYear, minutes, number, time } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import "./time-sheets.css";

const DAYS = 7;

/** The time sheets of all technicians over some days: what their visits come to, by themselves. */
export function TimeSheetsPage() {
  const [search, put] = useAddress();
  const last = search.get("last") ?? day(0);
  const first = search.get("first") ?? day(1 - DAYS);
  const found = useQuery({
    queryKey: ["time-sheets", first, last],
    queryFn: () => need(client.GET("/api/v1/time-sheets", { params: { query: { first, last } } })),
    placeholderData: (before) => before,
    retry: false,
  });
  const sheets = found.data ?? [];
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <h1>Time sheets</h1>
            <div className="actions">
              <TextInput
                label="From"
                type="date"
                value={first}
                max={last}
                onChange={(e) => e.currentTarget.value && put("first", e.currentTarget.value)}
              />
              <TextInput
                label="To"
                type="date"
                value={last}
                min={first}
                onChange={(e) => e.currentTarget.value && put("last", e.currentTarget.value)}
              />
              <Button
                variant="default"
                component="a"
                href={`/api/v1/time-sheets.csv?first=${first}&last=${last}`}
                download
              >
                Save as a sheet
              </Button>
              <Button variant="default" onClick={() => window.print()}>
                Print
              </Button>
            </div>
          </div>
          <Trouble error={found.error} />
          {found.data && sheets.length === 0 && (
            <p className="note">Nobody set off to an order in these days.</p>
          )}
          {sheets.map((sheet) => (
            <section key={sheet.person} aria-label={sheet.name} className="apart">
              <h2>
                {sheet.name}, {sheet.district}
              </h2>
              <p>
                <b>{minutes(sheet.on_site)}</b> on site, {minutes(sheet.travel)} on the way
                {sheet.km > 0 && ` and ${number(sheet.km)} km between sites`}
                {sheet.breaks > 0 && `, ${minutes(sheet.breaks)} of breaks`}, in{" "}
                {count(sheet.n_visits, "visit")} on {count(sheet.days.length, "day")}.
              </p>
              <table className="rows time-sheets">
                <thead>
                  <tr>
                    <th>Order</th>
                    <th>Site</th>
                    <th className="num">Headed out</th>
                    <th className="num">Arrived</th>
                    <th className="num">Left</th>
                    <th className="num">On the way</th>
                    <th className="num" title="From the site before it on that day, in a straight line">
                      km
                    </th>
                    <th className="num">On site</th>
                    <th className="num">Breaks</th>
                  </tr>
                </thead>
                <tbody>
                  {sheet.days.map((one) => (
                    <Fragment key={one.day}>
                      <tr>
                        <th colSpan={5}>{dayYear(`${one.day}T12:00`)}</th>
                        <th className="num">{minutes(one.travel)}</th>
                        <th className="num">{one.km > 0 && number(one.km)}</th>
                        <th className="num">{minutes(one.on_site)}</th>
                        <th className="num">{one.breaks > 0 && minutes(one.breaks)}</th>
                      </tr>
                      {one.lines.map((line) => (
                        <tr key={`${line.order} ${line.headed_out_at}`}>
                          <td>
                            <Link to={`/run/${line.order}`}>{line.order}</Link>
                            {line.corrected && <span className="soft"> corrected</span>}
                          </td>
                          <td>{line.site}</td>
                          <td className="num">{time(line.headed_out_at)}</td>
                          <td className="num">{line.arrived_at && time(line.arrived_at)}</td>
                          <td className="num">{line.left_at ? time(line.left_at) : "not yet"}</td>
                          <td className="num">{line.travel !== null && minutes(line.travel)}</td>
                          <td className="num">{line.km !== null && number(line.km)}</td>
                          <td className="num">{line.on_site !== null && minutes(line.on_site)}</td>
                          <td className="num">{line.breaks > 0 && minutes(line.breaks)}</td>
                        </tr>
                      ))}
                    </Fragment>
                  ))}
                </tbody>
              </table>
            </section>
          ))}
        </div>
      </main>
    </div>
  );
}

/** The day so many days from today, as a date field has it. */
function day(from: number): string {
  const at = new Date();
  at.setDate(at.getDate() + from);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}
