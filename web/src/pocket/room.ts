import { useEffect, useState } from "react";

/** Bytes below which the device is said to be nearly full: some twenty photos. */
const LOW = 60_000_000;

/** Bytes that photos leave free, so that answers can always be kept: some thousand of them. */
const FOR_ANSWERS = 10_000_000;

export interface Room {
  free: number;
  quota: number;
  isLow: boolean;
}

/** How much room the browser gives on this device, asked to be kept for good; nothing where it does not say. */
export function useRoom(): Room | null {
  const [room, setRoom] = useState<Room | null>(null);
  useEffect(() => {
    const ask = async () => {
      if (!navigator.storage?.estimate) return;
      await navigator.storage.persist?.().catch(() => false);
      const { usage = 0, quota = 0 } = await navigator.storage.estimate();
      setRoom({ free: quota - usage, quota, isLow: quota - usage < LOW });
    };
    void ask();
    const later = window.setInterval(() => void ask(), 60_000);
    return () => window.clearInterval(later);
  }, []);
  return room;
}

/** Whether a picture of so many bytes still fits, with room left for answers; so too where the browser does not say. */
export async function fits(bytes: number): Promise<boolean> {
  const { usage = 0, quota = 0 } = (await navigator.storage?.estimate?.()) ?? {};
  return quota === 0 || quota - usage - bytes >= FOR_ANSWERS;
}

export const megabytes = (bytes: number) =>
  `${Math.max(0, Math.round(bytes / 1_000_000)).toLocaleString("en-GB")} MB`;
