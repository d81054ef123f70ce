/**
 * Let Pocket open and run without a network: keep its own pages on the device. Only over HTTPS or on this machine.
 * It has the whole site as its scope, for the worker that runs the rules lies beside the pages, not below them.
 */
export function installPocket() {
  if (!("serviceWorker" in navigator)) return;
  void navigator.serviceWorker.register("/sw.js").catch(() => {
    // The browser does not allow it here. Everything works as long as there is a network.
  });
}

/** How long the pages of a new version may take to come down before the page is opened anew regardless, in milliseconds. */
const COMES_DOWN_MS = 20_000;

/** Let the pages of a new version take over from those kept on the device, and open this one anew. */
export async function takeNewVersion(): Promise<void> {
  const kept = await navigator.serviceWorker?.getRegistration("/").catch(() => undefined);
  if (kept) {
    const tookOver = new Promise((resolve) => {
      navigator.serviceWorker.addEventListener("controllerchange", resolve, { once: true });
      window.setTimeout(resolve, COMES_DOWN_MS);
    });
    await kept.update().catch(() => undefined);
    const coming = kept.waiting ?? kept.installing;
    if (coming) {
      const letGo = () => coming.state === "installed" && coming.postMessage({ type: "SKIP_WAITING" });
      coming.addEventListener("statechange", letGo);
      letGo();
      await tookOver;
    }
  }
  window.location.reload();
}
