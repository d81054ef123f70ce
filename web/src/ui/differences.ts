import type { Difference } from "../api/types";

/** What of a document is another: “minutes of “Read the pressure””; a title that is quoted already stays as it is. */
export function whatDiffers({ place, title, aspect }: Difference): string {
  const quoted = place && !title.startsWith("“") ? `“${title}”` : title;
  return aspect ? `${aspect} of ${quoted}` : quoted;
}
