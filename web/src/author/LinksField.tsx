import type { Step } from "../api/types";
import { SavedLines } from "../draft/saved-fields";

/** Documents and pages worth having at hand: a title and an address, one a line. */
export function LinksField({
  links,
  onChange,
}: {
  links: Step["links"];
  onChange: (links: Step["links"]) => void;
}) {
  return (
    <SavedLines
      label="Documents and links, one a line: title | address"
      placeholder="Power pack drawing | https://…"
      lines={links.map((l) => `${l.title} | ${l.address}`)}
      onSave={(lines) =>
        onChange(
          lines.map((line) => {
            const [title = "", address = title] = line.split("|").map((part) => part.trim());
            return { title, address };
          }),
        )
      }
    />
  );
}
