import { v4 as newId } from "uuid";
import type { Parcel } from "./device-store";

/** What was noted longer ago than this belongs to a page that is gone, where the browser cannot tell; in ms. */
const GONE_MS = 60_000;

/** This page, among all that ever noted something on this device. */
export const PAGE = newId();

const lockOf = (page: string) => `reedling-page-${page}`;

/** Once the browser knows of this page: it holds a lock of its name until it is gone. */
export const pageIsHeld = new Promise<void>((resolve) => {
  const hold = () => {
    resolve();
    return new Promise<never>(() => undefined);
  };
  if (navigator.locks) navigator.locks.request(lockOf(PAGE), hold).catch(() => resolve());
  else resolve();
});

/** Those of the parcels whose page is gone before its rules had looked at them; this page still looks at `mine`. */
export async function leftByPages(parcels: Parcel[], mine: Set<string>): Promise<Parcel[]> {
  const noted = parcels.filter((parcel) => parcel.checkedBy && !mine.has(parcel.id));
  if (noted.length === 0) return [];
  const others = noted.filter((parcel) => parcel.checkedBy !== PAGE);
  const own = noted.filter((parcel) => parcel.checkedBy === PAGE);
  if (!navigator.locks) return [...own, ...others.filter((parcel) => parcel.at < Date.now() - GONE_MS)];
  const { held = [] } = await navigator.locks.query();
  const open = new Set(held.map((lock) => lock.name));
  return [...own, ...others.filter(({ checkedBy = "" }) => !open.has(lockOf(checkedBy)))];
}
