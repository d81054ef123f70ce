import type { Catalogue, ListName } from "../api/types";

/** How a field of an entry is written: words, a number, a day, yes or no, codes of another list, asset fields. */
export interface ListField {
  key: string;
  label: string;
  as?: "text" | "number" | "day" | "yes" | "many" | "level" | "recorded";
  /** The list whose codes it holds. */
  of?: keyof Choices;
  width?: number;
}

/** What a field may choose from: the lists guidance refers to, and sites. */
export type Choices = Catalogue & { sites: { code: string; name: string }[] };

export const LISTS: { name: ListName; title: string; about: string; fields: ListField[] }[] = [
  {
    name: "equipment",
    title: "Equipment",
    about: "Classes in a tree: what is said of a class holds for all below it.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "parent", label: "Below", of: "equipment" },
    ],
  },
  {
    name: "models",
    title: "Models",
    about: "Models, each of one class.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "equipment", label: "Class", of: "equipment" },
    ],
  },
  {
    name: "symptoms",
    title: "Symptoms",
    about: "What the caller sees. Symptoms of one family count as related.",
    fields: [
      { key: "code", label: "Code" },
      { key: "label", label: "Symptom" },
      { key: "family", label: "Family" },
      { key: "synonyms", label: "Also said", as: "many" },
    ],
  },
  {
    name: "skills",
    title: "Skills",
    about: "What technicians can do; a certificate runs out.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "certificate", label: "Certificate", as: "yes" },
    ],
  },
  {
    name: "roster",
    title: "Roster",
    about: "Who holds which skill, at which level, and a certificate until when.",
    fields: [
      { key: "technician", label: "Technician" },
      { key: "district", label: "District" },
      { key: "skill", label: "Skill", of: "skills" },
      { key: "level", label: "Level", as: "level" },
      { key: "expires_on", label: "Expires on", as: "day" },
    ],
  },
  {
    name: "parts",
    title: "Parts",
    about: "What is consumed: unit, where it is stocked, what will do instead.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name", width: 240 },
      { key: "unit", label: "Unit", width: 80 },
      { key: "stocked", label: "Stocked at", as: "many" },
      { key: "substitutes", label: "Will do instead", as: "many", of: "parts" },
      { key: "price", label: "Price of one", as: "number" },
    ],
  },
  {
    name: "van_stock",
    title: "Van stock",
    about: "What each technician carries, in the part's own unit.",
    fields: [
      { key: "technician", label: "Technician" },
      { key: "part", label: "Part", of: "parts" },
      { key: "quantity", label: "Quantity", as: "number" },
    ],
  },
  {
    name: "tools",
    title: "Tools",
    about: "What a job is done with and what comes back.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name", width: 300 },
      { key: "stocked", label: "Kept at", as: "many" },
    ],
  },
  {
    name: "van_tools",
    title: "Tools in vans",
    about: "What tools each technician has in the van.",
    fields: [
      { key: "technician", label: "Technician" },
      { key: "tool", label: "Tool", of: "tools" },
      { key: "quantity", label: "How many", as: "number" },
    ],
  },
  {
    name: "cost_kinds",
    title: "Costs",
    about: "What a job may cost besides parts. Without a rate it is left open to the technician.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name", width: 240 },
      { key: "unit", label: "Unit", width: 80 },
      { key: "rate", label: "Rate", as: "number" },
    ],
  },
  {
    name: "contracts",
    title: "Contracts",
    about: "Terms under which sites are looked after.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
    ],
  },
  {
    name: "categories",
    title: "Categories",
    about: "What orders are sorted by in the books.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
    ],
  },
  {
    name: "sites",
    title: "Sites",
    about: "Places with assets. Orders logged before a change keep what they knew.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "district", label: "District" },
      { key: "customer", label: "Customer" },
      { key: "contract", label: "Contract", of: "contracts" },
      { key: "tags", label: "Tags", as: "many" },
      { key: "east", label: "East, °", as: "number", width: 90 },
      { key: "north", label: "North, °", as: "number", width: 90 },
      { key: "zone", label: "Time zone" },
    ],
  },
  {
    name: "assets",
    title: "Assets",
    about: "What is maintained, each at a site and of a class.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "site", label: "Site", of: "sites" },
      { key: "equipment", label: "Class", of: "equipment" },
      { key: "model", label: "Model", of: "models" },
      { key: "serial", label: "Serial" },
      { key: "warranty_until", label: "Warranty until", as: "day" },
      { key: "fields", label: "Recorded of it", as: "recorded" },
    ],
  },
  {
    name: "causes",
    title: "Causes",
    about: "What was wrong.",
    fields: [
      { key: "code", label: "Code" },
      { key: "label", label: "Cause" },
      { key: "synonyms", label: "Also said", as: "many" },
    ],
  },
  {
    name: "remedies",
    title: "Remedies",
    about: "What put it right.",
    fields: [
      { key: "code", label: "Code" },
      { key: "label", label: "Remedy" },
      { key: "synonyms", label: "Also said", as: "many" },
    ],
  },
  {
    name: "meters",
    title: "Meters",
    about: "What counts up on assets of a class.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "unit", label: "Unit", width: 80 },
      { key: "equipment", label: "Class", of: "equipment" },
    ],
  },
  {
    name: "fields",
    title: "Asset fields",
    about: "What is recorded of every asset of a class. With a unit or ticked as a number it is one.",
    fields: [
      { key: "code", label: "Code" },
      { key: "name", label: "Name" },
      { key: "unit", label: "Unit", width: 80 },
      { key: "number", label: "Number", as: "yes" },
      { key: "equipment", label: "Class", of: "equipment" },
    ],
  },
];
