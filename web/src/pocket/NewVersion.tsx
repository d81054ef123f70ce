import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import { OUTDATED } from "../api/client";
import { takeNewVersion } from "./install";

/** How long after a page was opened anew it is not opened anew by itself again, in milliseconds. */
const NOT_AGAIN_MS = 60_000;
const LAST = "reedling-opened-anew";

/**
 * Says that the server has another version than this page, and opens the page anew: by itself in the list of
 * orders, where nothing is being typed, and at a press on an order.
 */
export function NewVersion() {
  const [isOutdated, setOutdated] = useState(false);
  const inList = useLocation().pathname === "/pocket";
  useEffect(() => {
    const outdated = () => setOutdated(true);
    window.addEventListener(OUTDATED, outdated);
    return () => window.removeEventListener(OUTDATED, outdated);
  }, []);
  useEffect(() => {
    if (!isOutdated || !inList || Date.now() - Number(sessionStorage.getItem(LAST)) < NOT_AGAIN_MS) return;
    sessionStorage.setItem(LAST, String(Date.now()));
    void takeNewVersion();
  }, [isOutdated, inList]);
  if (!isOutdated) return null;
  return (
    <section className="pconsequence new-version" aria-label="New version">
      <p className="flush">
        <b>Reedling has a new version.</b> What you recorded is on this phone and is sent. Orders come down
        again once Pocket is opened anew.
      </p>
      <button type="button" className="pocket-other" onClick={() => void takeNewVersion()}>
        Open Pocket anew
      </button>
    </section>
  );
}
