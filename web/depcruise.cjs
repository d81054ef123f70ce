/** Which folder of the interface may import which; run by `npm run check`. */
const VERBS = ["author", "match", "run", "review", "refine", "pocket"];

module.exports = {
  forbidden: [
    { name: "no-circles", severity: "error", from: {}, to: { circular: true } },
    ...VERBS.map((verb) => ({
      name: `${verb}-knows-no-other-verb`,
      severity: "error",
      from: { path: `^src/${verb}/` },
      to: { path: `^src/(${[...VERBS.filter((other) => other !== verb), "app"].join("|")})/` },
    })),
    {
      name: "draft-stands-below-the-verbs",
      severity: "error",
      from: { path: "^src/draft/" },
      to: { path: `^src/(${[...VERBS, "app"].join("|")})/` },
    },
    {
      name: "pieces-ask-no-server",
      comment: "Pieces in ui/ are handed what they show; of api/ they know types only.",
      severity: "error",
      from: { path: "^src/ui/" },
      to: { path: "^src/(?!ui/|api/types)", pathNot: "^src/api/types" },
    },
    {
      name: "the-client-stands-lowest",
      severity: "error",
      from: { path: "^src/api/" },
      to: { path: "^src/(?!api/)" },
    },
  ],
  options: {
    tsConfig: { fileName: "tsconfig.json" },
    tsPreCompilationDeps: true,
    doNotFollow: { path: "node_modules" },
    exclude: { path: "\\.css$" },
  },
};
