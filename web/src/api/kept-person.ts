import type { Person } from "./types";

const KEY = "reedling-person";

/** The technician who is signed in on this device, so that Pocket opens without a network. */
export function keptPerson(): Person | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as Person | null;
  } catch {
    return null;
  }
}

export function keepPerson(person: Person) {
  localStorage.setItem(KEY, JSON.stringify(person));
}

/** Somebody signed out: the device opens for nobody without asking the server. */
export function forgetPerson() {
  localStorage.removeItem(KEY);
}
