import type { FieldEvent } from "../api/types";
import type { CarriedOrder } from "./carried-order";

export interface BesideProps {
  page: CarriedOrder;
  current: string | null;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  /** Keep a picture that answers no question; its identity, or nothing when it is not kept. */
  keepPicture: (blob: Blob, name: string) => Promise<string | null>;
  standIns: boolean;
  onDone: () => void;
}
