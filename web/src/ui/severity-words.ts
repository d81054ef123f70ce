/** How a problem is told, by its severity. */
export const SEVERITY_WORDS: Record<string, string> = {
  error: "Error. ",
  warning: "Worth a look. ",
  note: "Not proved. ",
};
