import { expect, test } from "vitest";
import { chosenAnew, rework } from "../src/draft/use-draft";

test("what was added and taken out is done to the choice as it is by then", () => {
  expect(chosenAnew(["a"], ["a", "b"])(["a", "c"])).toEqual(["a", "c", "b"]);
  expect(chosenAnew(["a", "b"], ["b"])(["a", "b", "c"])).toEqual(["b", "c"]);
  expect(chosenAnew([], ["a"])(["a"])).toEqual(["a"]);
});

test("against the plain rule, for every choice of three things drawn, given and there by then", () => {
  const all = ["a", "b", "c"];
  const sets = Array.from({ length: 8 }, (_, n) => all.filter((_, i) => n & (1 << i)));
  for (const drawn of sets)
    for (const given of sets)
      for (const now of sets) {
        const wanted = all.filter((x) =>
          drawn.includes(x) === given.includes(x) ? now.includes(x) : given.includes(x),
        );
        expect(chosenAnew(drawn, given)(now).toSorted()).toEqual(wanted);
      }
});

test("a field is reworked from what it is when the change is sent", () => {
  const change = rework<{ names: string[] }, "names">("names", (now) => [...now, "last"]);
  expect(change.patch({ names: ["first"] })).toEqual([
    { op: "add", path: "/names", value: ["first", "last"] },
  ]);
});
