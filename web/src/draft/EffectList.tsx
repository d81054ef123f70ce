import { Link } from "react-router";
import { useReleaseEffect } from "../api/queries";
import type { DocumentLink } from "../api/types";
import { count } from "../ui/format";
import { placeOf } from "../ui/places";
import { Trouble } from "../ui/Trouble";

/** What a release would touch: what goes together, who refers to it, which open orders keep the old. */
export function EffectList({ document }: { document: string }) {
  const effect = useReleaseEffect(document, true);
  if (effect.error) return <Trouble error={effect.error} />;
  if (!effect.data) return <p className="soft">Looking at what it touches.</p>;
  const { documents, used_in, incident_types, open_orders } = effect.data;
  return (
    <section className="effect" aria-label="What it touches">
      <p>Goes together: {documents.map((d) => `${d.title}, ${d.document} ${d.letter}`).join("; ")}.</p>
      {used_in.length > 0 && (
        <p>
          Changes with it: <Names links={used_in} />.
        </p>
      )}
      {incident_types.length > 0 && (
        <p>
          Incident types it is in: <Names links={incident_types} />.
        </p>
      )}
      <p>
        {open_orders.length === 0
          ? "No open order has an older revision."
          : `${count(open_orders.length, "open order keeps", "open orders keep")} what ${open_orders.length === 1 ? "it was" : "they were"} issued with: ${open_orders
              .slice(0, 6)
              .map((o) => `${o.order} (${o.revision}, ${o.state.toLowerCase()})`)
              .join(", ")}${open_orders.length > 6 ? " and more" : ""}.`}
      </p>
    </section>
  );
}

function Names({ links }: { links: DocumentLink[] }) {
  return links.map((link, i) => (
    <span key={link.document}>
      {i > 0 && ", "}
      <Link to={placeOf(link)}>{link.title}</Link>
    </span>
  ));
}
