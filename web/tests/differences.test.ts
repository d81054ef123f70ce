import { expect, it } from "vitest";
import { whatDiffers } from "../src/ui/differences";

const difference = { change: "changed" as const, before: "", after: "" };

it.each([
  ["read", "Read the pressure", "minutes", "minutes of “Read the pressure”"],
  ["bar", "“Pressure” of “Read the pressure”", "question", "question of “Pressure” of “Read the pressure”"],
  ["", "parts of the incident type", "", "parts of the incident type"],
])("says what differs at %s", (place, title, aspect, said) => {
  expect(whatDiffers({ ...difference, place, title, aspect })).toBe(said);
});
